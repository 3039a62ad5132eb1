<script setup lang="ts">
import type { HttpSettings } from '#core/http/settings'

/** A client that is given tokens (OAuth 2.0, client credentials). */
const signIn = defineModel<Extract<HttpSettings['signIn'], { kind: 'oauth' }>>({ required: true })
/** Of a field below the sign-in, as in .clientId. */
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()

const hows = [
  { value: 'header' as const, title: 'in a header' },
  { value: 'body' as const, title: 'in the body' },
]
</script>

<template>
  <TextField
    v-model="signIn.tokenAddress"
    label="Where tokens are given out"
    mono
    placeholder="https://sign-in.port.example/oauth/token"
    class="wide"
    :message="message('.tokenAddress')"
    @left="$emit('left', 'tokenAddress')"
  />
  <TextField v-model="signIn.clientId" label="Client id" mono :message="message('.clientId')" @left="$emit('left', 'clientId')" />
  <SecretField
    v-model="signIn.secret"
    label="Client secret"
    :message="message('.secret') || message('.secret.plain')"
    @left="$emit('left', 'secret.plain')"
  />
  <TextField v-model="signIn.scope" label="Scope" mono :message="message('.scope')" @left="$emit('left', 'scope')" />
  <ChoiceField v-model="signIn.how" label="They go" :choices="hows" />
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
