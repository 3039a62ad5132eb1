<script setup lang="ts">
import { qualityText, severityOf } from '#core/tags/quality'
import { passedOnBy } from '#core/tags/scaling'
import { namedText } from '#core/tags/valueNames'
import { tagSorts } from '#shared/api/tags'
import type { TagNote } from '#shared/notes'
import { columnNamed } from '#shared/tagCsv/columns'
import { fixedColumns } from '#shared/tagCsv/edit'
import type { Tag } from '#shared/tags'
import type { GridEdits } from '~/composables/useGridEdits'

/** Tags as a grid of cells, with what each is now. */
defineProps<{
  columns: readonly string[]
  total: number
  rows: ReadonlyMap<number, Tag>
  notes: ReadonlyMap<number, TagNote[]>
  edits: GridEdits
  /** Brings rows here that are not yet. */
  need: (first: number, last: number) => Promise<void>
  mayEdit: boolean
  /** By what column the rows are ordered; with “-” the other way round. */
  sort: string
}>()
defineEmits<{ save: []; sort: [sort: string] }>()
const live = useLive()
onUnmounted(() => live.show('tags', []))

const ways = {
  about: (name: string) => columnNamed(name)?.about ?? '',
  fixed: fixedColumns,
  sorts: tagSorts,
  widths: { path: 240, description: 220, address: 160, link: 120, type: 84, access: 84, start: 90 },
}
const textOf = (tag: Tag) => namedText(live.values.get(tag.id)?.value, tag.names, passedOnBy(tag))
const qualityOf = (tag: Tag) => live.values.get(tag.id)?.quality
const classOf = (tag: Tag) => {
  const quality = qualityOf(tag)
  const severity = quality === undefined ? 'good' : severityOf(quality)
  return { 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }
}
const grid = ref<{ block: { top: number; bottom: number }; chosenRows: number; fillDown(): void; focus(): void } | null>(null)
defineExpose({
  block: computed(() => grid.value?.block ?? { top: 0, bottom: 0 }),
  chosenRows: computed(() => grid.value?.chosenRows ?? 1),
  fillDown: () => grid.value?.fillDown(),
  focus: () => grid.value?.focus(),
})
</script>

<template>
  <CellGrid
    ref="grid"
    label="Cells of tags"
    what="tag"
    below="New tags come in from a spreadsheet."
    :columns="columns"
    :ways="ways"
    :total="total"
    :rows="rows"
    :cells="edits"
    :need="need"
    :may-edit="mayEdit"
    :sort="sort"
    :watched="[
      { name: 'value now', width: 96, right: true },
      { name: 'quality', width: 104 },
    ]"
    :note-of="(tag) => openNote(notes.get(tag.id))"
    @save="$emit('save')"
    @sort="$emit('sort', $event)"
    @rest="live.show('tags', $event)"
  >
    <template #watched="{ row }">
      <span class="grid-cell number live" role="gridcell">{{ textOf(row) }}</span>
      <span class="grid-cell live" role="gridcell" :class="classOf(row)">{{
        qualityOf(row) === undefined ? '' : qualityText(qualityOf(row)!)
      }}</span>
    </template>
    <slot />
  </CellGrid>
</template>
