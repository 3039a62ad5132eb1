<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { GridStack, type GridStackNode } from 'gridstack'
import 'gridstack/dist/gridstack.min.css'
import { rowsOf } from '#core/displays/place'
import { gridColumns, type Pane } from '#core/displays/settings'

/** Panes on their grid. While it is edited they are dragged, and drawn larger at their corner. */
const props = defineProps<{
  panes: readonly Pane[]
  editing?: boolean
  chosen?: number | null
  /** All of it is to be seen at once: rows are as high as there is room. */
  fit?: boolean
}>()
const emit = defineEmits<{ placed: [boxes: { index: number; x: number; y: number; w: number; h: number }[]]; choose: [index: number] }>()

const rowHeight = 62
const gap = 5
const root = ref<HTMLElement | null>(null)
const room = ref<HTMLElement | null>(null)
const { height } = useElementSize(room)
let grid: GridStack | null = null
/** What the grid tells of what it was told would come back to it. */
let isTelling = false

const items = () => [...(root.value?.querySelectorAll<HTMLElement>(':scope > .grid-stack-item') ?? [])]
const indexOf = ({ el }: GridStackNode) => Number(el?.dataset.index)

const cellHeight = computed(() => {
  const rows = rowsOf(props.panes)
  return props.fit && rows > 0 && height.value > 0 ? Math.max(24, Math.floor(height.value / rows)) : rowHeight
})

/** Brings the grid to what the panes say; what lies as it should is let be. */
const tell = () => {
  const present = grid
  if (!present) return
  isTelling = true
  present.batchUpdate()
  const known = new Set(present.engine.nodes.map(({ el }) => el))
  for (const element of items()) {
    const { x, y, w, h } = props.panes[Number(element.dataset.index)]!
    if (!known.has(element as never)) present.makeWidget(element, { x, y, w, h })
    else {
      const node = present.engine.nodes.find(({ el }) => el === (element as unknown))!
      if (node.x !== x || node.y !== y || node.w !== w || node.h !== h) present.update(element, { x, y, w, h })
    }
  }
  present.batchUpdate(false)
  isTelling = false
  report()
}

/** Tells which panes lie elsewhere than was said: pushed by another, or dragged. */
const report = () => {
  if (isTelling || !grid || !props.editing || grid.getColumn() !== gridColumns) return
  const moved = grid.engine.nodes.flatMap((node) => {
    const index = indexOf(node)
    const pane = props.panes[index]
    const { x = 0, y = 0, w = 1, h = 1 } = node
    return pane && (pane.x !== x || pane.y !== y || pane.w !== w || pane.h !== h) ? [{ index, x, y, w, h }] : []
  })
  if (moved.length > 0) emit('placed', moved)
}

onMounted(() => {
  const made = GridStack.init(
    {
      ...{ column: gridColumns, cellHeight: cellHeight.value, margin: gap, float: true, animate: false, staticGrid: !props.editing },
      columnOpts: { breakpoints: [{ w: 560, c: 1 }], layout: 'list' },
      resizable: { handles: 'se' },
      draggable: { cancel: 'a, button, input, select, textarea' },
    },
    root.value!,
  )!
  // while something is dragged others give way and come back; what counts is how they lie in the end
  made.on('dragstop resizestop', () => void setTimeout(report))
  grid = made
  tell()
})
watch(cellHeight, (next) => grid?.cellHeight(next))
watch(
  () => JSON.stringify(props.panes.map(({ x, y, w, h }) => [x, y, w, h])),
  () => void nextTick(tell),
)
onBeforeUnmount(() => {
  grid?.destroy(false)
  grid = null
})
</script>

<template>
  <div ref="room" class="room" :class="{ fit, editing }">
    <div ref="root" class="grid-stack">
      <div
        v-for="(pane, index) in panes"
        :key="index"
        class="grid-stack-item"
        :data-index="index"
        :gs-x="pane.x"
        :gs-y="pane.y"
        :gs-w="pane.w"
        :gs-h="pane.h"
        :tabindex="editing ? 0 : undefined"
        @pointerdown="editing && emit('choose', index)"
        @focus="editing && emit('choose', index)"
      >
        <div class="grid-stack-item-content"><PaneFrame :pane="pane" :chosen="editing && chosen === index" /></div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.room {
  margin: -5px;
}
.room.fit {
  height: 100%;
}
.editing .grid-stack {
  min-height: 300px;
  background-image: linear-gradient(to right, var(--line-soft) 1px, transparent 1px);
  background-size: calc(100% / 12) 100%;
}
.editing .grid-stack-item {
  cursor: grab;
}
.editing .grid-stack-item-content :deep(*) {
  pointer-events: none;
}
.grid-stack-item:focus-visible {
  outline: none;
}
</style>
