<script setup lang="ts">
import type { HttpSettings } from '#core/http/settings'

/** A proxy that connections go through. */
const proxy = defineModel<Extract<HttpSettings['proxy'], { kind: 'http' }>>({ required: true })
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()
const identities = [
  { value: 'anonymous' as const, title: 'nobody signs in' },
  { value: 'password' as const, title: 'name and password' },
]
const signInBy = (kind: 'anonymous' | 'password') =>
  (proxy.value.identity = kind === 'password' ? { kind, user: '', password: { plain: '' } } : { kind })
</script>

<template>
  <TextField v-model="proxy.host" label="Host of the proxy" mono :message="message('host')" @left="$emit('left', 'host')" />
  <NumberField v-model="proxy.port" label="Port of the proxy" :message="message('port')" @left="$emit('left', 'port')" />
  <ChoiceField :model-value="proxy.identity.kind" label="At the proxy" :choices="identities" @update:model-value="signInBy" />
  <template v-if="proxy.identity.kind === 'password'">
    <TextField
      v-model="proxy.identity.user"
      label="Name at the proxy"
      :message="message('identity.user')"
      @left="$emit('left', 'identity.user')"
    />
    <SecretField
      v-model="proxy.identity.password"
      label="Password at the proxy"
      :message="message('identity.password') || message('identity.password.plain')"
      @left="$emit('left', 'identity.password.plain')"
    />
  </template>
</template>
