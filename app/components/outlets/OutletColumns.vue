<script setup lang="ts">
/** How an outlet is, in two columns: what happens left, what it offers and to whom right. */
</script>

<template>
  <div class="columns">
    <div class="column"><slot /></div>
    <div class="column"><slot name="side" /></div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 4fr);
  gap: 16px;
  align-items: start;
}
.column {
  display: grid;
  gap: 14px;
  min-width: 0;
}
.column :slotted(.part) {
  padding: 12px 14px;
  overflow-x: auto;
}
.column :slotted(.part p) {
  margin: 8px 0 0;
}
</style>
