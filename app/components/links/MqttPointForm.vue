<script setup lang="ts">
import type { MqttPointOptions, MqttSettings } from '#core/mqtt/settings'
import type { DataType } from '#core/tags/types'

/** What a topic leaves open: where in the payload the value is, when it was made, how old it may grow, and where it is written. */
const options = defineModel<MqttPointOptions>({ required: true })
defineProps<{ type: DataType; settings: MqttSettings; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const put = (field: 'path' | 'time' | 'setTopic' | 'age', value: string | number | null) => {
  const { [field]: _, ...rest } = options.value
  options.value = value === null || value === '' ? rest : { ...rest, [field]: value }
}
const texts = [
  { field: 'path' as const, label: 'Inside the payload', placeholder: 'the whole payload, or $.power.kw' },
  { field: 'time' as const, label: 'When it was made', placeholder: 'when it came, or $.at' },
  { field: 'setTopic' as const, label: 'Written to', placeholder: 'the same topic' },
]
</script>

<template>
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
  <NumberField
    :model-value="options.age ?? null"
    label="Uncertain without a message after"
    unit="ms"
    hint="empty: as the link has it"
    :message="messageFor('options.age')"
    @update:model-value="put('age', $event)"
    @left="$emit('left', 'options.age')"
  />
</template>
