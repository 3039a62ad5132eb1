<script setup lang="ts">
import { readCall } from '#core/http/call'
import type { HttpPointOptions, HttpSettings } from '#core/http/settings'
import type { DataType } from '#core/tags/types'

/** What a call leaves open: where in the answer the value is, when it was made, and by which call it is written. */
const options = defineModel<HttpPointOptions>({ required: true })
const props = defineProps<{ type: DataType; settings: HttpSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const put = (field: 'path' | 'time' | 'setBy', value: string) => {
  const { [field]: _, ...rest } = options.value
  options.value = value === '' ? rest : { ...rest, [field]: value }
}
const texts = [
  { field: 'path' as const, label: 'Inside the answer', placeholder: 'the whole answer, or $.price' },
  { field: 'time' as const, label: 'When it was made', placeholder: 'when it came, or $.at' },
  { field: 'setBy' as const, label: 'Written by the call', placeholder: 'limit?berth=2, with {value} in it' },
]
const example = computed(() => {
  const read = readCall(props.address)
  return read.ok ? (props.settings.operations.find(({ name }) => name === read.call.operation)?.example ?? '') : ''
})
</script>

<template>
  <ExampleTree
    v-if="example"
    :model-value="options.path ?? ''"
    :text="example"
    label="The example of this operation"
    @update:model-value="put('path', $event)"
  />
  <TextField
    v-for="{ field, label, placeholder } in texts"
    :key="field"
    :model-value="options[field] ?? ''"
    :label="label"
    mono
    :placeholder="placeholder"
    :message="messageFor(`options.${field}`)"
    @update:model-value="put(field, $event.trim())"
    @left="$emit('left', `options.${field}`)"
  />
</template>
