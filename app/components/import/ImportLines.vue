<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { folderOf, nameOf } from '#core/tags/path'
import { listImportLines } from '#shared/api/imports'
import type { ImportLine, ImportStatus, Outcome } from '#shared/imports'

/** The lines that come to one thing; changed cells show before and after, in place. */
const props = defineProps<{ status: ImportStatus; what: Outcome; find: string }>()
/** Paths that are left out when the rest is applied. */
const without = defineModel<Set<string>>('without', { required: true })

const rowHeight = 31
const pages = usePages<ImportLine>((offset, limit) =>
  callApi(listImportLines, { params: { id: props.status.id }, query: { what: props.what, find: props.find, offset, limit } }),
)
const { total, rows } = pages
watch(
  () => [props.status.id, props.status.settings, props.status.state, props.what, props.find],
  () => void (['ready', 'applied'].includes(props.status.state) && pages.refresh()),
  { immediate: true },
)

const isRefused = computed(() => props.what === 'refused')
/** Of refused lines what is wrong; else the columns of the file that say something, and whatever changes besides. */
const columns = computed(() => {
  const shown = [...rows.values()]
  const inFile =
    props.status.found?.columns.flatMap(({ column }) => (column && !['path', 'new_path', 'source'].includes(column) ? [column] : [])) ?? []
  if (isRefused.value) {
    const wrong = new Set(shown.flatMap(({ problems }) => problems.map(({ column }) => column)))
    return inFile.filter((name) => wrong.has(name))
  }
  const changed = new Set(shown.flatMap(({ before, kept }) => [...Object.keys(before), ...Object.keys(kept)]))
  const used = inFile.filter((name) => changed.has(name) || shown.some(({ cells }) => cells[name]))
  const others = [...changed].filter((name) => name !== 'path' && !inFile.includes(name))
  return [...used, ...others]
})
const isWork = computed(() => props.what === 'added' || props.what === 'changed' || props.what === 'removed')

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: total.value, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 12 })),
)
const visible = computed(() => virtual.value.getVirtualItems())
watch([visible, () => rows.size], ([items]) => items.length > 0 && pages.need(items[0]!.index, items.at(-1)!.index))

const toggle = (path: string) => {
  const next = new Set(without.value)
  if (!next.delete(path)) next.add(path)
  without.value = next
}
const wide = new Set(['link', 'address', 'description', 'start', 'member'])
const widthOf = (name: string) => (wide.has(name) ? 150 : 86)
const grid = computed(() =>
  [
    ...(isWork.value ? ['22px'] : []),
    '48px minmax(230px, 2.4fr)',
    ...(isRefused.value ? ['minmax(420px, 4fr)'] : []),
    ...columns.value.map((name) => `minmax(${widthOf(name)}px, ${wide.has(name) ? 1.6 : 0.8}fr)`),
  ].join(' '),
)
const least = computed(() => columns.value.reduce((sum, name) => sum + widthOf(name) + 10, 340) + (isRefused.value ? 430 : 0))
const nothing: Record<Outcome, string> = {
  added: 'No line makes a new tag.',
  changed: 'No line changes a tag.',
  removed: 'No tag is removed.',
  refused: 'No line is refused.',
  same: 'No line leaves a tag as it is.',
}
</script>

<template>
  <section class="sheet lines" role="table" :aria-label="`Lines: ${what}`" :aria-rowcount="total">
    <FaultNote v-if="pages.refused.value" :fault="pages.refused.value.why" />
    <div ref="scroller" class="scroller" tabindex="0" role="rowgroup">
      <div class="line header" role="row" :style="{ gridTemplateColumns: grid, minWidth: `${least}px` }">
        <span v-if="isWork" role="columnheader"><span class="visually-hidden">Applied</span></span>
        <span role="columnheader" class="right">Line</span>
        <span role="columnheader">path</span>
        <span v-if="isRefused" role="columnheader">why</span>
        <span v-for="name in columns" :key="name" role="columnheader">{{ name.replaceAll('_', ' ') }}</span>
      </div>
      <p v-if="pages.loaded.value && total === 0" class="none quiet">{{ find ? 'Nothing matches.' : nothing[what] }}</p>
      <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative', minWidth: `${least}px` }">
        <div v-for="item in visible" :key="item.index" class="slot" :style="{ transform: `translateY(${item.start}px)` }">
          <div
            v-for="row in [rows.get(item.index)].filter((one) => one !== undefined)"
            :key="`${row.line} ${row.path}`"
            class="line"
            role="row"
            :class="{ out: without.has(row.path) }"
            :style="{ gridTemplateColumns: grid }"
          >
            <span v-if="isWork" role="cell">
              <input
                type="checkbox"
                class="tick"
                :checked="!without.has(row.path)"
                :disabled="status.state === 'applied'"
                :aria-label="`Apply ${row.path}`"
                @change="toggle(row.path)"
              />
            </span>
            <span role="cell" class="number">{{ row.line ?? '—' }}</span>
            <span role="cell" class="mono" :title="row.path">
              <template v-if="row.before.path"
                ><s class="quiet">{{ row.before.path }}</s> {{ row.cells.path }}</template
              >
              <span v-else-if="row.path" class="path">
                <span class="quiet">{{ folderOf(row.path) ? `${folderOf(row.path)}/` : '' }}</span><span>{{ nameOf(row.path) }}</span>
                <span v-if="row.kept.path" class="is-late" :title="`the file calls it ${row.kept.path}`">&nbsp;kept</span>
              </span>
              <template v-else>—</template>
            </span>
            <span v-if="isRefused" role="cell" class="is-broken" :title="row.problems.map(({ message }) => message).join(' ')">
              {{ row.problems.map(({ message }) => message).join(' ') }}
            </span>
            <span
              v-for="name in columns"
              :key="name"
              role="cell"
              class="mono"
              :class="{
                quiet: row.before[name] === undefined && what === 'changed',
                wrong: row.problems.some(({ column }) => column === name),
              }"
              :title="
                row.kept[name] === undefined
                  ? row.cells[name]
                  : `kept as somebody changed it; the file says ${row.kept[name] || 'nothing'}, as before`
              "
            >
              <template v-if="row.kept[name] !== undefined">
                {{ row.cells[name] ?? 'nothing' }} <span class="is-late">kept</span>
              </template>
              <template v-else-if="row.before[name] !== undefined">
                <s v-if="row.before[name]" class="quiet">{{ row.before[name] }}</s>
                {{ row.cells[name] ?? 'nothing' }}
              </template>
              <template v-else>{{ row.cells[name] ?? '' }}</template>
            </span>
          </div>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.lines {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.scroller {
  flex: 1;
  min-height: 160px;
  overflow: auto;
}
.slot {
  position: absolute;
  top: 0;
  left: 0;
  right: 0;
}
.line {
  display: grid;
  align-items: center;
  gap: 10px;
  height: 31px;
  padding: 0 12px;
  border-top: 1px solid var(--line-soft);
}
.line > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
/* where it is tight the folders give way, the name stays */
.path {
  display: flex;
}
.path > :first-child {
  overflow: hidden;
  text-overflow: ellipsis;
}
.path > :last-child {
  flex: none;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
.header {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--surface);
  border-top: 0;
  border-bottom: 1px solid var(--line);
  color: var(--quiet);
  font-weight: 500;
}
.right {
  text-align: right;
}
.out > span:not(:first-child) {
  opacity: 0.45;
  text-decoration: line-through;
}
.wrong {
  color: var(--break);
  font-weight: 600;
}
.none {
  padding: 10px 12px;
  margin: 0;
}
</style>
