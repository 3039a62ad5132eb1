<script setup lang="ts">
/** A part below the line-up: a few lines, each with its pipe. */
defineProps<{ title: string }>()
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">{{ title }}</h2>
    <slot />
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
  min-width: 0;
}
.part :deep(table) {
  margin-top: 4px;
}
.part :deep(p) {
  margin: 8px 0 2px;
}
</style>
