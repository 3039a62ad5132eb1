<script setup lang="ts">
import { folderOf, nameOf } from '#core/tags/path'

/** A tag's path in one line: where it is tight the folders give way, the name stays. */
defineProps<{ path: string }>()
</script>

<template>
  <span class="path" :title="path">
    <span class="quiet">{{ folderOf(path) ? `${folderOf(path)}/` : '' }}</span><span>{{ nameOf(path) }}</span>
    <slot />
  </span>
</template>

<style scoped>
.path {
  display: flex;
  align-items: baseline;
  overflow: hidden;
}
.path > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.path > :first-child {
  flex: 0 1 auto;
}
.path > :nth-child(2) {
  flex: none;
  max-width: 100%;
}
.path > :slotted(small) {
  margin-left: 8px;
}
</style>
