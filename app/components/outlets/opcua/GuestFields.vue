<script setup lang="ts">
import type { OutletUser } from '#shared/outlets/opcuaServer'

/** One who may come in by name, or by a certificate of one's own, and what that one may do. */
const user = defineModel<OutletUser>({ required: true })
const props = defineProps<{ number: number; folders: readonly string[]; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()

const at = (path: string) => `settings.users.${props.number - 1}.${path}`
const message = (path: string) => props.messageFor(at(path))
const kinds = [
  { value: 'password' as const, title: 'a password' },
  { value: 'certificate' as const, title: 'a certificate', subtitle: 'X.509, with its key at the client' },
]
const comeBy = (kind: OutletUser['key']['kind']) => {
  user.value.key = kind === 'password' ? { kind, password: { plain: '' } } : { kind, certificate: '' }
}
const readFile = async (event: Event) => {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file || user.value.key.kind !== 'certificate') return
  user.value.key.certificate = asPem(new Uint8Array(await file.arrayBuffer()))
  emit('left', at('key.certificate'))
}
/** Files come as PEM or as DER. */
const asPem = (bytes: Uint8Array) => {
  const text = new TextDecoder().decode(bytes)
  if (text.includes('-----BEGIN')) return text.trim()
  const lines = btoa(String.fromCharCode(...bytes)).match(/.{1,64}/g) ?? []
  return ['-----BEGIN CERTIFICATE-----', ...lines, '-----END CERTIFICATE-----'].join('\n')
}
</script>

<template>
  <GuestFrame
    v-model="user.name"
    :number="number"
    rights="Rights by folder"
    :message-for="messageFor"
    @left="$emit('left', $event)"
    @drop="$emit('drop')"
  >
    <ChoiceField :model-value="user.key.kind" label="Comes in by" :choices="kinds" @update:model-value="comeBy" />
    <SecretField
      v-if="user.key.kind === 'password'"
      v-model="user.key.password"
      class="wide"
      :label="`Password ${number}`"
      :message="message('key.password') || message('key.password.plain')"
      @left="$emit('left', at('key.password.plain'))"
    />
    <div v-else class="wide">
      <label class="label" :for="`certificate-${number}`">Certificate, PEM</label>
      <v-textarea
        :id="`certificate-${number}`"
        v-model="user.key.certificate"
        rows="3"
        class="mono"
        :error-messages="message('key.certificate')"
        @blur="$emit('left', at('key.certificate'))"
      />
      <label class="file">
        <span>or take it from a file</span>
        <input type="file" accept=".pem,.der,.crt,.cer" @change="readFile" />
      </label>
    </div>
    <template #rights>
      <RulesField
        v-model="user.rules"
        :what="`Rights of ${user.name || number}`"
        :path="at('rules')"
        :folders="folders"
        :message-for="messageFor"
      />
    </template>
  </GuestFrame>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
.file {
  display: flex;
  gap: 8px;
  margin-top: 4px;
}
</style>
