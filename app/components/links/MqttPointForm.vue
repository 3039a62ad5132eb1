<script setup lang="ts">
import type { Layout } from '#core/messages/layout'
import type { MqttPointOptions, MqttSettings } from '#core/mqtt/settings'
import type { DataType } from '#core/tags/types'

/** What a topic leaves open: where in the payload the value is, when it was made, how old it may grow, and where it is written. */
const options = defineModel<MqttPointOptions>({ required: true })
defineProps<{ type: DataType; settings: MqttSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const put = (field: 'path' | 'time' | 'setTopic' | 'age' | 'send', value: string | number | null) => {
  const { [field]: _, ...rest } = options.value
  options.value = value === null || value === '' ? rest : { ...rest, [field]: value }
}
const texts = [
  { field: 'path' as const, label: 'Inside the payload', placeholder: 'the whole payload, or $.power.kw' },
  { field: 'time' as const, label: 'When it was made', placeholder: 'when it came, or $.at' },
  { field: 'setTopic' as const, label: 'Written to', placeholder: 'the same topic' },
]
const forms = [
  { value: false, title: 'text or JSON' },
  { value: true, title: 'bytes', subtitle: 'numbers without a form around them' },
]
const layout = (part: Partial<Layout>) =>
  (options.value = { ...options.value, bytes: { at: 0, order: 'big', ...options.value.bytes, ...part } })
const choose = (isBytes: boolean) => {
  const { bytes: _, path: _path, time: _time, ...rest } = options.value
  options.value = isBytes ? { ...rest, bytes: { at: 0, order: 'big' } } : rest
}
const orders = [
  { value: 'big' as const, title: 'most significant first' },
  { value: 'little' as const, title: 'least significant first' },
]
const sends = [
  { value: 'plain' as const, title: 'the value alone' },
  { value: 'json' as const, title: 'JSON', subtitle: 'with value, time and quality' },
]
const shownTexts = computed(() => texts.filter(({ field }) => !options.value.bytes || field === 'setTopic'))
</script>

<template>
  <ChoiceField :model-value="options.bytes !== undefined" label="The payload is" :choices="forms" @update:model-value="choose" />
  <template v-if="options.bytes">
    <NumberField
      :model-value="options.bytes.at"
      label="From byte"
      unit=""
      hint="the first is 0"
      :message="messageFor('options.bytes.at')"
      @update:model-value="layout({ at: $event ?? 0 })"
      @left="$emit('left', 'options.bytes.at')"
    />
    <ChoiceField
      v-if="type !== 'bool'"
      :model-value="options.bytes.order"
      label="Bytes of a number"
      :choices="orders"
      @update:model-value="layout({ order: $event })"
    />
    <NumberField
      v-else
      :model-value="options.bytes.bit ?? null"
      label="Bit"
      unit=""
      hint="0 to 7; empty: the byte is not 0"
      :message="messageFor('options.bytes.bit')"
      @update:model-value="layout({ bit: $event ?? undefined })"
    />
  </template>
  <TextField
    v-for="{ field, label, placeholder } in shownTexts"
    :key="field"
    :model-value="options[field] ?? ''"
    :label="label"
    mono
    :placeholder="placeholder"
    :message="messageFor(`options.${field}`)"
    @update:model-value="put(field, $event.trim())"
    @left="$emit('left', `options.${field}`)"
  />
  <ChoiceField
    v-if="!options.bytes"
    :model-value="options.send ?? 'plain'"
    label="Written as"
    :choices="sends"
    @update:model-value="put('send', $event === 'plain' ? null : $event)"
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
