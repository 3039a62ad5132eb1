<script setup lang="ts">
import type { HttpSettings } from '#core/http/settings'

/** Whether their certificate is verified, by which authority, and which one of ours is shown. */
const trust = defineModel<HttpSettings['trust']>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
const id = useId()
</script>

<template>
  <v-switch v-model="trust.verify" label="Verify their certificate" />
  <div v-if="trust.verify" class="wide">
    <label class="label" :for="id">Certificates of its authority, in PEM</label>
    <v-textarea
      :id="id"
      v-model="trust.authority"
      rows="4"
      class="mono"
      placeholder="empty: the authorities that this machine knows"
      :error-messages="message('authority')"
      @blur="$emit('left', 'authority')"
    />
  </div>
  <ClientCertificateFields
    v-model="trust.certificate"
    :message="(field) => message(`certificate.${field}`)"
    @left="$emit('left', `certificate.${$event}`)"
  />
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
