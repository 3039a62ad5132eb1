<script setup lang="ts">
import { parseAddress } from '#core/bacnet/address'
import { isCommandable, isPresentValue } from '#core/bacnet/point'
import type { BacnetPointOptions, BacnetSettings, NoticeKind } from '#core/bacnet/settings'
import { isNumeric, type DataType } from '#core/tags/types'

/** What a property leaves open: how its changes are told, and the priority at which it is written. */
const options = defineModel<BacnetPointOptions>({ required: true })
const props = defineProps<{ type: DataType; settings: BacnetSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const parsed = computed(() => {
  const found = parseAddress(props.address)
  return found.ok ? found.address : null
})
const isUsual = computed(() => parsed.value !== null && isPresentValue(parsed.value))
const isTold = computed(() => parsed.value !== null && (isUsual.value || (options.value.notices ?? 'off') !== 'off'))
const byPriority = computed(() => parsed.value !== null && isCommandable(parsed.value))
const words: Record<NoticeKind, string> = { confirmed: 'with a receipt', unconfirmed: 'without a receipt', off: 'not told: polled' }
const notices = computed(() => [
  { value: undefined as NoticeKind | undefined, title: isUsual.value ? `as the link: ${words[props.settings.notices.kind]}` : words.off },
  ...(['unconfirmed', 'confirmed', 'off'] as const).map((value) => ({ value: value as NoticeKind | undefined, title: words[value] })),
])
const usualPriority = computed(() => props.settings.writes.priority)
</script>

<template>
  <ChoiceField
    v-if="parsed || options.notices !== undefined"
    :model-value="options.notices"
    label="Changes are told"
    :choices="notices"
    :message="messageFor('options.notices')"
    @update:model-value="options = { ...options, notices: $event }"
  />
  <NumberField
    v-if="(isTold && isNumeric(type)) || options.increment !== undefined"
    :model-value="options.increment ?? null"
    label="From a change of"
    hint="empty: as the object has it"
    :message="messageFor('options.increment')"
    @update:model-value="options = { ...options, increment: $event ?? undefined }"
    @left="$emit('left', 'options.increment')"
  />
  <NumberField
    v-if="byPriority || options.priority !== undefined"
    :model-value="options.priority ?? null"
    label="Written at priority"
    :hint="usualPriority === null ? 'empty: none is named, which is 16' : `empty: as the link, ${usualPriority}`"
    :message="messageFor('options.priority')"
    @update:model-value="options = { ...options, priority: $event ?? undefined }"
    @left="$emit('left', 'options.priority')"
  />
</template>
