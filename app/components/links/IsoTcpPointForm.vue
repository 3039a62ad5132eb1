<script setup lang="ts">
import { formsOf, formText, needsCount, ordersMatter, type ByteOrder, type Form } from '#core/isotcp/layout'
import type { IsoPointOptions, IsoTcpSettings } from '#core/isotcp/settings'
import type { DataType } from '#core/tags/types'

/** What the bytes of a controller leave open: the form of texts and times, the order of bytes, lengths. */
const options = defineModel<IsoPointOptions>({ required: true })
const props = defineProps<{ type: DataType; settings: IsoTcpSettings; address: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const forms = computed(() => {
  const possible = formsOf(props.type)
  const usual = props.type === 'string' || props.type === 'datetime' ? possible[0] : undefined
  return [
    ...(usual === undefined && possible.length > 0 ? [{ value: undefined, title: 'a binary number' }] : []),
    ...possible.map((form) => ({ value: form === usual ? undefined : (form as Form | undefined), title: form, subtitle: formText[form] })),
  ]
})
const isTimed = computed(() => /^[TCZ]\d/i.test(props.address.trim()))
const orders = computed(() => [
  { value: undefined, title: `as the link: ${props.settings.order === 'big' ? 'highest first' : 'lowest first'}` },
  { value: 'big' as ByteOrder | undefined, title: 'highest first' },
  { value: 'little' as ByteOrder | undefined, title: 'lowest first' },
])
</script>

<template>
  <ChoiceField
    v-if="forms.length > 0 && !isTimed"
    :model-value="options.form"
    label="Form"
    :choices="forms"
    :message="messageFor('options.form')"
    @update:model-value="options = { ...options, form: $event }"
  />
  <ChoiceField
    v-if="ordersMatter(type, options.form ?? null)"
    :model-value="options.order"
    label="Bytes of a number"
    :choices="orders"
    :message="messageFor('options.order')"
    @update:model-value="options = { ...options, order: $event }"
  />
  <NumberField
    v-if="type === 'string'"
    :model-value="options.length ?? null"
    label="Length"
    unit="characters"
    :message="messageFor('options.length')"
    @update:model-value="options = { ...options, length: $event ?? NaN }"
    @left="$emit('left', 'options.length')"
  />
  <NumberField
    v-if="needsCount(type)"
    :model-value="options.count ?? null"
    label="Elements"
    :message="messageFor('options.count')"
    @update:model-value="options = { ...options, count: $event ?? NaN }"
    @left="$emit('left', 'options.count')"
  />
</template>
