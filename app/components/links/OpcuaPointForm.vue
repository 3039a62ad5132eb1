<script setup lang="ts">
import type { OpcuaPointOptions, OpcuaSettings } from '#core/opcua/settings'
import { isNumeric, type DataType } from '#core/tags/types'

/** What a node leaves open: the way into its value, and what is too small to be told. */
const options = defineModel<OpcuaPointOptions>({ required: true })
const props = defineProps<{ type: DataType; settings: OpcuaSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const kinds = [
  { value: undefined, title: 'none', subtitle: 'every change is told' },
  { value: 'absolute' as const, title: 'absolute', subtitle: 'in the unit of the value' },
  { value: 'percent' as const, title: 'percent of its range', subtitle: 'where the server knows the range' },
]
const setMember = (member: string) => {
  const { member: _, ...rest } = options.value
  options.value = member.trim() === '' ? rest : { ...rest, member: member.trim() }
}
const setKind = (kind: 'absolute' | 'percent' | undefined) => {
  const { deadband, ...rest } = options.value
  options.value = kind ? { ...rest, deadband: { kind, value: deadband?.value ?? 0 } } : rest
}
const hasDeadband = computed(() => isNumeric(props.type) && !options.value.member)
</script>

<template>
  <TextField
    :model-value="options.member ?? ''"
    label="Inside it"
    mono
    placeholder="the whole value, or Target.Angle, or [2]"
    :message="messageFor('options.member')"
    @update:model-value="setMember"
    @left="$emit('left', 'options.member')"
  />
  <ChoiceField
    v-if="hasDeadband"
    :model-value="options.deadband?.kind"
    label="Deadband at the source"
    :choices="kinds"
    :message="messageFor('options.deadband')"
    @update:model-value="setKind"
  />
  <NumberField
    v-if="hasDeadband && options.deadband"
    :model-value="options.deadband.value"
    label="Not told within"
    :unit="options.deadband.kind === 'percent' ? '%' : ''"
    :message="messageFor('options.deadband.value')"
    @update:model-value="options = { ...options, deadband: { kind: options.deadband.kind, value: $event ?? NaN } }"
    @left="$emit('left', 'options.deadband.value')"
  />
</template>
