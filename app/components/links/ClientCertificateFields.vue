<script setup lang="ts">
import type { ClientCertificate } from '#core/contracts/protection'

/** By which certificate of ours a connection shows whose it is. */
const certificate = defineModel<ClientCertificate>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
const id = useId()
const kinds = [
  { value: 'none' as const, title: 'none is shown' },
  { value: 'ours' as const, title: 'that of this application', subtitle: 'under Site, Certificates' },
  { value: 'own' as const, title: 'another one, given here' },
]
const showBy = (kind: ClientCertificate['kind']) =>
  (certificate.value = kind === 'own' ? { kind, certificate: '', key: { plain: '' } } : { kind })
</script>

<template>
  <ChoiceField :model-value="certificate.kind" label="Our certificate" :choices="kinds" @update:model-value="showBy" />
  <template v-if="certificate.kind === 'own'">
    <div class="wide">
      <label class="label" :for="id">Certificate, PEM</label>
      <v-textarea
        :id="id"
        v-model="certificate.certificate"
        rows="3"
        class="mono"
        :error-messages="message('certificate')"
        @blur="$emit('left', 'certificate')"
      />
    </div>
    <SecretField
      v-model="certificate.key"
      class="wide"
      label="Its private key, PEM"
      :message="message('key') || message('key.plain')"
      @left="$emit('left', 'key.plain')"
    />
  </template>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
