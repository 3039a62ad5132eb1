<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import type { TrayRow } from '~/composables/useTray'

/** What will become tags, with the paths they get; any of them may have another. */
const props = defineProps<{ rows: TrayRow[]; textOf(row: TrayRow): string }>()
const emit = defineEmits<{ rename: [key: string, path: string]; remove: [key: string] }>()
const rowHeight = 30
/** Where it is tight the outer folders give way. */
const shortName = (names: readonly string[]) => (names.length > 3 ? `…${names.slice(-3).join('.')}` : names.join('.'))
const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({
    count: props.rows.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => rowHeight,
    overscan: 8,
    initialRect: { width: 1200, height: 240 },
  })),
)
const visible = computed(() => virtual.value.getVirtualItems().map(({ index, start }) => ({ row: props.rows[index]!, start })))
</script>

<template>
  <div class="sheet tray" role="table" aria-label="To become tags">
    <div class="line head" role="row">
      <span role="columnheader">Path</span><span role="columnheader">Comes from</span><span role="columnheader">Type</span
      ><span role="columnheader">Unit</span><span role="columnheader">Access</span><span role="columnheader" class="number">Now</span
      ><span role="columnheader">Note</span><span />
    </div>
    <div ref="scroller" class="body" tabindex="0" role="rowgroup">
      <div :style="{ height: `${virtual.getTotalSize()}px` }" class="space">
        <div v-for="{ row, start } in visible" :key="row.key" class="line" role="row" :style="{ transform: `translateY(${start}px)` }">
          <input
            role="cell"
            class="mono path"
            :value="row.path"
            :aria-label="`Path of ${row.names.join('.')}`"
            @change="emit('rename', row.key, ($event.target as HTMLInputElement).value.trim())"
          />
          <span role="cell" class="mono quiet cut" :title="row.details.address">{{ shortName(row.names) }}</span>
          <span role="cell" class="mono">{{ row.details.type }}</span>
          <span role="cell">{{ row.details.unit }}</span>
          <span role="cell">{{ row.details.access === 'readwrite' ? 'read, write' : 'read' }}</span>
          <span role="cell" class="number cut">{{ textOf(row) }}</span>
          <span role="cell" class="cut is-late" :title="row.note">{{ row.note }}</span>
          <button type="button" class="drop" :aria-label="`Leave out ${row.path}`" @click="emit('remove', row.key)">✕</button>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.tray {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 120px;
  overflow: hidden;
}
.line {
  display: grid;
  grid-template-columns: minmax(180px, 3fr) minmax(150px, 3fr) 90px 56px 86px minmax(80px, 1fr) minmax(100px, 2fr) 22px;
  gap: 10px;
  align-items: center;
  height: 30px;
  padding: 0 10px;
  border-top: 1px solid var(--line-soft);
}
.head {
  overflow: hidden;
  scrollbar-gutter: stable;
  border-top: 0;
  border-bottom: 1px solid var(--line);
  font-weight: 500;
  color: var(--quiet);
}
.body {
  flex: 1;
  overflow-y: auto;
  scrollbar-gutter: stable;
}
.space {
  position: relative;
}
.space .line {
  position: absolute;
  inset-inline: 0;
}
.path {
  width: 100%;
  padding: 2px 4px;
  margin-left: -4px;
  border-radius: 4px;
}
.path:focus {
  outline: 1px solid var(--primary);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.drop {
  color: var(--quiet);
}
</style>
