<script setup lang="ts">
import type { IoLinkPointOptions } from '#core/iolink/settings'
import type { DataType } from '#core/tags/types'

/** What a value behind a port leaves open: what letters are made of. */
const options = defineModel<IoLinkPointOptions>({ required: true })
defineProps<{ type: DataType; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const forms = [
  { value: undefined as IoLinkPointOptions['form'], title: 'text' },
  { value: 'hex' as IoLinkPointOptions['form'], title: 'octets, in hex' },
]
</script>

<template>
  <ChoiceField
    v-if="type === 'string' || options.form !== undefined"
    :model-value="options.form === 'text' ? undefined : options.form"
    label="Letters are"
    :choices="forms"
    :message="messageFor('options.form')"
    @update:model-value="options = { ...options, form: $event }"
  />
</template>
