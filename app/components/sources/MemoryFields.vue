<script setup lang="ts">
import { isNumeric, isWide } from '#core/tags/types'
import type { MemorySource } from '#shared/sources/memory'
import type { Drawn } from '#shared/sources/source'

/** What a memory tag holds before anybody wrote it. */
const draft = defineModel<Drawn<MemorySource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const truths = [
  { value: null as boolean | null, title: 'nothing' },
  { value: true as boolean | null, title: 'true' },
  { value: false as boolean | null, title: 'false' },
]
const set = (start: MemorySource['start']) => (draft.value.source = { ...draft.value.source, start })

/** Numbers are kept as numbers; what is none stays as it was typed, and says so. */
const fromText = (text: string) => {
  const number = Number(text.trim().replace(',', '.'))
  const type = draft.value.type
  if (text.trim() === '') return set(type === 'string' && text !== '' ? text : null)
  set(isNumeric(type) && !isWide(type) && !Number.isNaN(number) ? number : text)
}
const text = computed(() => (draft.value.source.start === null ? '' : String(draft.value.source.start)))

watch(
  () => draft.value.type,
  (type) => (type === 'bool' ? set(null) : fromText(text.value)),
)
</script>

<template>
  <div class="wide">
    <ChoiceField
      v-if="draft.type === 'bool'"
      :model-value="typeof draft.source.start === 'boolean' ? draft.source.start : null"
      label="Starts with"
      :choices="truths"
      :message="messageFor('source.start')"
      @update:model-value="set"
    />
    <TextField
      v-else
      :model-value="text"
      label="Starts with"
      mono
      placeholder="nothing"
      :message="messageFor('source.start')"
      @update:model-value="fromText"
      @left="$emit('left', 'source.start')"
    />
    <p class="hint quiet">Until somebody writes it; empty: no value until then. What was written stays over restarts.</p>
  </div>
  <slot name="type" />
  <template v-if="isNumeric(draft.type)">
    <NumberField
      v-for="end in ['low', 'high'] as const"
      :key="end"
      :model-value="draft.source[end]"
      :label="end === 'low' ? 'Takes nothing below' : 'Takes nothing above'"
      :unit="draft.unit"
      :message="messageFor(`source.${end}`)"
      @update:model-value="draft.source = { ...draft.source, [end]: $event }"
      @left="$emit('left', `source.${end}`)"
    />
  </template>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.hint {
  margin: 4px 0 0;
  font-size: 12px;
}
</style>
