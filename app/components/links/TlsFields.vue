<script setup lang="ts">
import { tlsModes, type TlsSettings } from '#core/contracts/protection'

/** How a connection is protected, and by whose word the other side is believed. */
const tls = defineModel<TlsSettings>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
const id = useId()
const modes = tlsModes.map((mode) => ({ value: mode, ...protectionTitles[mode] }))
</script>

<template>
  <ChoiceField v-model="tls.mode" label="The connection is" :choices="modes" />
  <div v-if="tls.mode === 'verified'" class="wide">
    <label class="label" :for="id">Certificates of its authority, in PEM</label>
    <v-textarea
      :id="id"
      v-model="tls.authority"
      rows="4"
      class="mono"
      placeholder="empty: the authorities that this machine knows"
      :error-messages="message('authority')"
      @blur="$emit('left', 'authority')"
    />
  </div>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
