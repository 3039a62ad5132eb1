<script setup lang="ts">
/** The sheet below a sentence, in which the part that was pressed is edited. */
defineEmits<{ done: [] }>()
</script>

<template>
  <div class="panel">
    <slot />
    <div class="done">
      <v-btn @click="$emit('done')">Done</v-btn>
      <slot name="more" />
    </div>
  </div>
</template>

<style scoped>
.panel {
  margin-top: 12px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-left: 3px solid var(--primary);
  border-radius: 6px;
}
.panel :deep(.fields) {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 12px;
}
.panel :deep(.wide) {
  grid-column: span 2;
}
.panel :deep(.whole) {
  grid-column: 1 / -1;
}
.panel :deep(.note) {
  align-self: center;
  margin: 0;
}
.done {
  display: flex;
  gap: 10px;
  margin-top: 12px;
}
</style>
