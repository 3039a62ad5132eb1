<script setup lang="ts">
defineProps<{ title: string; text: string }>()
</script>

<template>
  <section class="sheet empty">
    <h2>{{ title }}</h2>
    <p class="quiet">{{ text }}</p>
    <div class="buttons"><slot /></div>
  </section>
</template>

<style scoped>
.empty {
  padding: 36px 40px;
}
h2 {
  font-size: 17px;
  font-weight: 600;
  margin: 0;
}
p {
  margin: 6px 0 18px;
  max-width: 60ch;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
</style>
