<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { MqttWay } from '#shared/outlets/cloudPlatform'

/** How a platform is reached by MQTT 5. */
const way = defineModel<MqttWay>({ required: true })
defineProps<{ message(path: string): string; hasProblem(part: string): boolean }>()
const emit = defineEmits<{ left: [path: string] }>()

const identities = [
  { value: 'anonymous' as const, title: 'nothing' },
  { value: 'password' as const, title: 'name and token' },
]
const signInBy = (kind: 'anonymous' | 'password') =>
  (way.value.identity = kind === 'password' ? { kind, user: '', password: { plain: '' } } : { kind })
const carriers = [
  { value: 'tcp' as const, title: 'TCP' },
  { value: 'websocket' as const, title: 'websocket', subtitle: 'where only the web gets through' },
]
const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { over, path, tls, certificate, clientId, keepAlive, root, patience } = way.value
  const shown = tls.mode === 'off' || certificate.kind === 'none' ? '' : ', we show a certificate'
  return {
    protection: `${over === 'websocket' ? `websocket at ${path}` : 'TCP'}, ${protectionText(tls)}${shown}`,
    topics: `below ${root}, as ${clientId || 'another client at each start'}, a sign of life every ${keepAlive} s`,
    patience: `answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
  }
})
</script>

<template>
  <div class="first">
    <TextField
      v-model="way.host"
      label="Broker"
      mono
      placeholder="platform.example"
      :message="message('host')"
      @left="emit('left', 'host')"
    />
    <NumberField v-model="way.port" label="Port" :message="message('port')" @left="emit('left', 'port')" />
  </div>
  <div class="identity">
    <ChoiceField :model-value="way.identity.kind" label="We sign in by" :choices="identities" @update:model-value="signInBy" />
    <template v-if="way.identity.kind === 'password'">
      <TextField v-model="way.identity.user" label="Name" :message="message('identity.user')" @left="emit('left', 'identity.user')" />
      <SecretField
        v-model="way.identity.password"
        label="Token"
        :message="message('identity.password') || message('identity.password.plain')"
        @left="emit('left', 'identity.password.plain')"
      />
    </template>
  </div>
  <p v-if="way.identity.kind === 'password' && way.tls.mode === 'off'" class="is-late">
    Nothing encrypts this connection: everybody on the way can read the token.
  </p>
  <SettingsFold
    title="Protection"
    :summary="summary.protection"
    :has-problem="hasProblem('over') || hasProblem('path') || hasProblem('tls') || hasProblem('certificate')"
  >
    <ChoiceField v-model="way.over" label="Over" :choices="carriers" />
    <TextField
      v-if="way.over === 'websocket'"
      v-model="way.path"
      label="Path"
      mono
      :message="message('path')"
      @left="emit('left', 'path')"
    />
    <TlsFields v-model="way.tls" :message="(field) => message(`tls.${field}`)" @left="emit('left', `tls.${$event}`)" />
    <ClientCertificateFields
      v-if="way.tls.mode !== 'off'"
      v-model="way.certificate"
      :message="(field) => message(`certificate.${field}`)"
      @left="emit('left', `certificate.${$event}`)"
    />
  </SettingsFold>
  <SettingsFold
    title="Topics"
    :summary="summary.topics"
    :has-problem="hasProblem('root') || hasProblem('clientId') || hasProblem('keepAlive')"
  >
    <TextField v-model="way.root" label="Topics begin with" mono :message="message('root')" @left="emit('left', 'root')" />
    <TextField
      v-model="way.clientId"
      label="Client id"
      mono
      placeholder="another one at each start"
      :message="message('clientId')"
      @left="emit('left', 'clientId')"
    />
    <NumberField
      v-model="way.keepAlive"
      label="A sign of life every"
      unit="s"
      :message="message('keepAlive')"
      @left="emit('left', 'keepAlive')"
    />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="hasProblem('patience')">
    <PatienceFields v-model="way.patience" :message="message" @left="emit('left', $event)" />
  </SettingsFold>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: 1fr 110px;
  gap: 12px;
  margin: 10px 0;
}
.identity {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 12px;
  margin-bottom: 12px;
}
</style>
