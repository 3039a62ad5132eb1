<template>
  <main class="wall"><slot /></main>
</template>

<style scoped>
.wall {
  height: 100vh;
  overflow: hidden;
}
</style>
