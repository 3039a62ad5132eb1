<script setup lang="ts">
import { tlsModes, type TlsSettings } from '#core/contracts/protection'

/** How a connection is protected, and by whose word the other side is believed. */
const tls = defineModel<TlsSettings>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
const modes = tlsModes.map((mode) => ({ value: mode, ...protectionTitles[mode] }))
</script>

<template>
  <ChoiceField v-model="tls.mode" label="The connection is" :choices="modes" />
  <AuthorityField
    v-if="tls.mode === 'verified'"
    v-model="tls.authority"
    :message="message('authority')"
    @left="$emit('left', 'authority')"
  />
</template>
