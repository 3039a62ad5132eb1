<script setup lang="ts">
/** A list that fills the page, and beside it what is chosen in it. */
defineProps<{ open: boolean }>()
</script>

<template>
  <div class="split" :class="{ open }">
    <div class="left"><slot /></div>
    <slot name="beside" />
  </div>
</template>

<style scoped>
.split {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
}
.open {
  grid-template-columns: minmax(0, 1fr) 400px;
}
.left {
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 14px 20px;
}
</style>
