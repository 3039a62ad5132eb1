<script setup lang="ts">
import { isBcdType } from '#core/modbus/bcd'
import { isModbusType, ordersMatter, wordOrders, wordOrderText, type WordOrder } from '#core/modbus/layout'
import type { ModbusPointOptions, ModbusTcpSettings } from '#core/modbus/settings'
import type { DataType } from '#core/tags/types'

/** What registers leave open: word order, the length of a text, and whether a number is one of digits. */
const options = defineModel<ModbusPointOptions>({ required: true })
const props = defineProps<{ type: DataType; settings: ModbusTcpSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const hasOrder = computed(() => isModbusType(props.type) && ordersMatter(props.type))
const orders = computed(() => [
  { value: undefined, title: `as the link: ${props.settings.order}` },
  ...wordOrders.map((order) => ({ value: order as WordOrder | undefined, title: order, subtitle: wordOrderText[order] })),
])
const codingChoices = [
  { value: undefined, title: 'binary' },
  { value: 'bcd' as const, title: 'BCD', subtitle: 'a decimal digit in each four bits' },
]
</script>

<template>
  <ChoiceField
    v-if="hasOrder"
    :model-value="options.order"
    label="Word order"
    :choices="orders"
    :message="messageFor('options.order')"
    @update:model-value="options = { ...options, order: $event }"
  />
  <ChoiceField
    v-if="isBcdType(type)"
    :model-value="options.coding"
    label="Coding"
    :choices="codingChoices"
    :message="messageFor('options.coding')"
    @update:model-value="options = { ...options, coding: $event }"
  />
  <NumberField
    v-if="type === 'string'"
    :model-value="options.length ?? null"
    label="Length"
    unit="bytes"
    :message="messageFor('options.length')"
    @update:model-value="options = { ...options, length: $event ?? NaN }"
    @left="$emit('left', 'options.length')"
  />
</template>
