<script setup lang="ts">
import type { Flow } from '#shared/flow'

/**
 * State as a stretch of pipe. Whole: flowing. Dashed: late. A gap with flanges: broken. A capped
 * end: switched off. An outline: under way. The shape says it; the colour only helps.
 */
const props = withDefaults(defineProps<{ flow: Flow | 'waiting'; width?: number; text?: string }>(), { width: 50, text: '' })

const words: Record<Flow | 'waiting', string> = {
  flowing: 'flowing',
  late: 'late',
  broken: 'broken',
  off: 'switched off',
  waiting: 'under way',
}
const middle = computed(() => props.width / 2)
const dashes = computed(() => Array.from({ length: Math.floor((props.width + 4) / 10) }, (_, i) => i * 10))
</script>

<template>
  <svg class="pipe" :class="flow" :width="width" height="14" :viewBox="`0 0 ${width} 14`" role="img" :aria-label="text || words[flow]">
    <template v-if="flow === 'flowing'">
      <rect x="0" y="4" :width="width" height="6" />
      <rect class="bore" x="0" y="6" :width="width" height="2" />
    </template>
    <template v-else-if="flow === 'late'">
      <rect v-for="x in dashes" :key="x" :x="x" y="4" width="6" height="6" />
    </template>
    <template v-else-if="flow === 'broken'">
      <rect x="0" y="4" :width="middle - 8" height="6" />
      <rect :x="middle - 10" y="0" width="2" height="14" />
      <rect :x="middle + 8" y="0" width="2" height="14" />
      <rect :x="middle + 8" y="4" :width="middle - 8" height="6" />
    </template>
    <template v-else-if="flow === 'off'">
      <rect x="0" y="4" :width="middle" height="6" />
      <rect :x="middle" y="0" width="3" height="14" />
    </template>
    <rect v-else class="outline" x="0.5" y="4.5" :width="width - 1" height="5" />
  </svg>
</template>

<style scoped>
.pipe {
  display: block;
  flex: none;
}
.flowing {
  fill: var(--flow);
}
.flowing .bore {
  fill: var(--surface);
  opacity: 0.65;
}
.late {
  fill: var(--copper);
}
.broken {
  fill: var(--break);
}
.off {
  fill: var(--capped);
}
.outline {
  fill: none;
  stroke: var(--capped);
}
</style>
