<script setup lang="ts">
import type { HttpSettings } from '#core/http/settings'

/** Whether their certificate is verified, by which authority, and which one of ours is shown. */
const trust = defineModel<HttpSettings['trust']>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
</script>

<template>
  <v-switch v-model="trust.verify" label="Verify their certificate" />
  <AuthorityField v-if="trust.verify" v-model="trust.authority" :message="message('authority')" @left="$emit('left', 'authority')" />
  <ClientCertificateFields
    v-model="trust.certificate"
    :message="(field) => message(`certificate.${field}`)"
    @left="$emit('left', `certificate.${$event}`)"
  />
</template>
