<script setup lang="ts">
import { rowsOf } from '#core/displays/place'
import { gridColumns, type Pane } from '#core/displays/settings'

/** How the panes of a display lie, small. */
const props = defineProps<{ panes: readonly Pane[] }>()
const rows = computed(() => Math.max(4, Math.min(12, rowsOf(props.panes))))
const gap = 0.14
</script>

<template>
  <svg class="sketch" :viewBox="`0 0 ${gridColumns} ${rows}`" preserveAspectRatio="xMidYMin meet" aria-hidden="true">
    <rect
      v-for="({ x, y, w, h, shows }, i) in panes.filter((pane) => pane.y < 12)"
      :key="i"
      :x="x + gap"
      :y="y + gap"
      :width="w - 2 * gap"
      :height="h - 2 * gap"
      :class="shows.kind"
      rx="0.15"
    />
  </svg>
</template>

<style scoped>
.sketch {
  width: 84px;
  height: 44px;
  display: block;
}
rect {
  fill: var(--capped);
  opacity: 0.55;
}
.value,
.state {
  fill: var(--flow);
}
.trend,
.windows {
  fill: var(--primary);
}
.troubles {
  fill: var(--copper);
}
.words {
  opacity: 0.2;
}
</style>
