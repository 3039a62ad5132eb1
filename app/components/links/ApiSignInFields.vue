<script setup lang="ts">
import type { HttpSettings } from '#core/http/settings'
import { blankSignIn } from '~/links/blankSignIn'

/** How calls of a web API show whose they are. */
const signIn = defineModel<HttpSettings['signIn']>({ required: true })
/** Of a field below the sign-in, as in .user. */
defineProps<{ message(field: string): string }>()
defineEmits<{ left: [field: string] }>()

const ways = [
  { value: 'none' as const, title: 'nothing' },
  { value: 'key' as const, title: 'a key' },
  { value: 'bearer' as const, title: 'a token', subtitle: 'as Bearer' },
  { value: 'basic' as const, title: 'name and password' },
  { value: 'oauth' as const, title: 'tokens they give out', subtitle: 'OAuth 2.0, client credentials' },
]
const places = [
  { value: 'header' as const, title: 'in a header' },
  { value: 'query' as const, title: 'in the query', subtitle: 'logs on the way may show it' },
]
</script>

<template>
  <div class="signing">
    <ChoiceField :model-value="signIn.kind" label="We sign in by" :choices="ways" @update:model-value="signIn = blankSignIn($event)" />
    <template v-if="signIn.kind === 'basic'">
      <TextField v-model="signIn.user" label="Name to sign in with" :message="message('.user')" @left="$emit('left', 'user')" />
      <SecretField
        v-model="signIn.password"
        label="Password"
        :message="message('.password') || message('.password.plain')"
        @left="$emit('left', 'password.plain')"
      />
    </template>
    <SecretField
      v-else-if="signIn.kind === 'bearer'"
      v-model="signIn.token"
      label="Token"
      :message="message('.token') || message('.token.plain')"
      @left="$emit('left', 'token.plain')"
    />
    <OauthFields v-else-if="signIn.kind === 'oauth'" v-model="signIn" :message="message" @left="$emit('left', $event)" />
    <template v-else-if="signIn.kind === 'key'">
      <SecretField
        v-model="signIn.key"
        label="Key"
        :message="message('.key') || message('.key.plain')"
        @left="$emit('left', 'key.plain')"
      />
      <ChoiceField v-model="signIn.in" label="It goes" :choices="places" />
      <TextField v-model="signIn.name" label="Under the name" mono :message="message('.name')" @left="$emit('left', 'name')" />
    </template>
  </div>
</template>

<style scoped>
.signing {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: 12px;
  margin-bottom: 12px;
}
</style>
