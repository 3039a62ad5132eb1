<script setup lang="ts">
import { isNumeric, isWide } from '#core/tags/types'
import type { ConstantSource } from '#shared/sources/constant'
import type { Drawn } from '#shared/sources/source'

/** The value that a tag has for good. */
const draft = defineModel<Drawn<ConstantSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const truths = [
  { value: true, title: 'true' },
  { value: false, title: 'false' },
]
const set = (value: ConstantSource['value']) => (draft.value.source = { ...draft.value.source, value })
/** Numbers are kept as numbers; what is none stays as it was typed, and says so. */
const fromText = (text: string) => {
  const number = Number(text.trim().replace(',', '.'))
  const { type } = draft.value
  set(text.trim() !== '' && isNumeric(type) && !isWide(type) && !Number.isNaN(number) ? number : text)
}
watch(
  () => draft.value.type,
  (type) => (type === 'bool' ? set(draft.value.source.value === true) : fromText(String(draft.value.source.value))),
)
</script>

<template>
  <div class="wide">
    <ChoiceField
      v-if="draft.type === 'bool'"
      :model-value="draft.source.value === true"
      label="Value"
      :choices="truths"
      :message="messageFor('source.value')"
      @update:model-value="set"
    />
    <TextField
      v-else
      :model-value="String(draft.source.value)"
      label="Value"
      mono
      :message="messageFor('source.value')"
      @update:model-value="fromText"
      @left="$emit('left', 'source.value')"
    />
  </div>
  <slot name="type" />
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
</style>
