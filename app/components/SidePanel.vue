<script setup lang="ts">
import { mdiClose } from '@mdi/js'

/** What is chosen in a list: where it belongs, its name, its value, and all about it. */
defineProps<{ label: string; above: string; name: string; title?: string; mono?: boolean }>()
defineEmits<{ close: [] }>()
</script>

<template>
  <aside class="panel" :aria-label="label">
    <button type="button" class="close" aria-label="Close" title="Close (Esc)" @click="$emit('close')">
      <v-icon :icon="mdiClose" size="18" />
    </button>
    <div class="head">
      <div class="names">
        <span class="quiet cut" :title="title ?? above">{{ above }}</span>
        <h2 class="cut" :class="{ mono }" :title="name">{{ name }}</h2>
      </div>
      <div class="value mono"><slot name="value" /></div>
    </div>
    <slot />
  </aside>
</template>

<style scoped>
.panel {
  position: relative;
  padding: 14px 18px 24px;
  background: var(--surface);
  border-left: 1px solid var(--line);
  overflow: auto;
}
.close {
  position: absolute;
  top: 10px;
  right: 12px;
  color: var(--quiet);
}
.head {
  padding-top: 6px;
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
  gap: 12px;
}
.names {
  min-width: 0;
}
.cut {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h2 {
  font-size: 17px;
  font-weight: 600;
  margin: 0;
}
.value {
  flex: none;
  max-width: 60%;
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 18px;
  white-space: nowrap;
}
.value :slotted(strong) {
  font-weight: 600;
}
.panel :slotted(p) {
  margin: 4px 0;
}
.panel :slotted(.buttons) {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 10px 0 14px;
}
.panel :slotted(.gap) {
  margin-bottom: 14px;
}
</style>
