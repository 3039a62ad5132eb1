<script setup lang="ts">
import { mqttVersions, qosLevels, qosText, type MqttSettings } from '#core/mqtt/settings'
import { duration } from '#core/text/duration'

/** What belongs to an MQTT link: its broker and how we sign in there; the rest folded, readable as a line. */
const settings = defineModel<MqttSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const versions = mqttVersions.map((version) => ({ value: version, title: version }))
const qualities = qosLevels.map((qos) => ({ value: qos, title: `${qos}: ${qosText[qos]}` }))
const identities = [
  { value: 'anonymous' as const, title: 'nothing' },
  { value: 'password' as const, title: 'name and password' },
]
const retainedChoices = [
  { value: 'uncertain' as const, title: 'uncertain', subtitle: 'it may be old, unless it says when it was made' },
  { value: 'good' as const, title: 'good', subtitle: 'where senders keep them up to date' },
]
const signInBy = (kind: 'anonymous' | 'password') =>
  (settings.value.identity = kind === 'password' ? { kind, user: '', password: { plain: '' } } : { kind })

const ways = [
  { value: 'tcp' as const, title: 'TCP' },
  { value: 'websocket' as const, title: 'websocket', subtitle: 'where only the web gets through' },
]
const leaveWill = (on: boolean | null) => (settings.value.will = on ? { topic: '', payload: 'gone', qos: 1, retain: true } : null)

/** A port that was only the usual one follows what is spoken there. */
const usualPort = ({ over, tls: { mode } }: Pick<MqttSettings, 'over' | 'tls'>) =>
  over === 'websocket' ? (mode === 'off' ? 80 : 443) : mode === 'off' ? 1883 : 8883
watch(
  () => usualPort(settings.value),
  (now, before) => {
    if (settings.value.port === before) settings.value.port = now
  },
)

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { version, clientId, session, keepAlive, reading, patience, writes, localAddress, over, path, tls, certificate, will } =
    settings.value
  const shown = tls.mode === 'off' || certificate.kind === 'none' ? '' : ', we show a certificate'
  return {
    protection: `${over === 'websocket' ? `websocket at ${path}` : 'TCP'}, ${protectionText(tls)}${shown}`,
    will: will ? `${will.payload || 'an empty message'} to ${will.topic || '…'}` : 'none',
    session: `MQTT ${version}, as ${clientId || 'another client at each start'}, ${session.keep ? 'the broker keeps what comes meanwhile' : 'anew at each connection'}, a sign of life every ${keepAlive} s`,
    reading: `QoS ${reading.qos}, kept messages are ${reading.retained}, ${reading.age === null ? 'values never grow old' : `uncertain after ${ms(reading.age)} without a message`}`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    writes: `QoS ${writes.qos}, ${writes.retain ? 'kept by the broker' : 'not kept'}, ${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most`,
    network: localAddress || 'as this machine chooses',
  }
})
</script>

<template>
  <div class="first">
    <TextField
      v-model="settings.host"
      label="Broker"
      mono
      placeholder="10.8.1.30 or broker.port.example"
      :message="message('host')"
      @left="left('host')"
    />
    <NumberField v-model="settings.port" label="Port" :message="message('port')" @left="left('port')" />
  </div>
  <div class="identity">
    <ChoiceField :model-value="settings.identity.kind" label="We sign in by" :choices="identities" @update:model-value="signInBy" />
    <template v-if="settings.identity.kind === 'password'">
      <TextField v-model="settings.identity.user" label="Name" :message="message('identity.user')" @left="left('identity.user')" />
      <SecretField
        v-model="settings.identity.password"
        label="Password"
        :message="message('identity.password') || message('identity.password.plain')"
        @left="left('identity.password.plain')"
      />
    </template>
  </div>
  <p v-if="settings.identity.kind === 'password' && settings.tls.mode === 'off'" class="is-late clear">
    Nothing encrypts this connection: everybody on the way can read the password.
  </p>

  <SettingsFold title="Protection" :summary="summary.protection" :has-problem="wrong('over', 'path', 'tls', 'certificate')">
    <ChoiceField v-model="settings.over" label="Over" :choices="ways" />
    <TextField
      v-if="settings.over === 'websocket'"
      v-model="settings.path"
      label="Path"
      mono
      :message="message('path')"
      @left="left('path')"
    />
    <TlsFields v-model="settings.tls" :message="(field) => message(`tls.${field}`)" @left="left(`tls.${$event}`)" />
    <template v-if="settings.tls.mode !== 'off'">
      <ClientCertificateFields
        v-model="settings.certificate"
        :message="(field) => message(`certificate.${field}`)"
        @left="left(`certificate.${$event}`)"
      />
    </template>
  </SettingsFold>
  <SettingsFold title="Session" :summary="summary.session" :has-problem="wrong('version', 'clientId', 'session', 'keepAlive')">
    <ChoiceField v-model="settings.version" label="MQTT" :choices="versions" />
    <TextField
      v-model="settings.clientId"
      label="Client id"
      mono
      hint="nobody else may come with the same"
      :message="message('clientId')"
      @left="left('clientId')"
    />
    <NumberField
      v-model="settings.keepAlive"
      label="A sign of life every"
      unit="s"
      :message="message('keepAlive')"
      @left="left('keepAlive')"
    />
    <v-switch v-model="settings.session.keep" label="The broker keeps what comes while we are away" />
    <NumberField
      v-if="settings.session.keep && settings.version === '5'"
      v-model="settings.session.expiry"
      label="For"
      unit="s"
      :message="message('session.expiry')"
      @left="left('session.expiry')"
    />
  </SettingsFold>
  <SettingsFold title="Last will" :summary="summary.will" :has-problem="wrong('will')">
    <v-switch
      :model-value="settings.will !== null"
      label="The broker sends a message for us when we are gone without a word"
      class="wide"
      @update:model-value="leaveWill"
    />
    <template v-if="settings.will">
      <TextField
        v-model="settings.will.topic"
        label="Topic"
        mono
        placeholder="conduit/state"
        :message="message('will.topic')"
        @left="left('will.topic')"
      />
      <TextField
        v-model="settings.will.payload"
        label="Payload"
        mono
        placeholder="gone"
        :message="message('will.payload')"
        @left="left('will.payload')"
      />
      <ChoiceField v-model="settings.will.qos" label="Quality of service" :choices="qualities" />
      <v-switch v-model="settings.will.retain" label="Kept for who comes later" />
    </template>
  </SettingsFold>
  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('reading')">
    <ChoiceField v-model="settings.reading.qos" label="Quality of service" :choices="qualities" />
    <ChoiceField v-model="settings.reading.retained" label="A message that the broker kept is" :choices="retainedChoices" />
    <NumberField
      v-model="settings.reading.age"
      label="Uncertain without a message after"
      unit="ms"
      hint="empty: never"
      :message="message('reading.age')"
      @left="left('reading.age')"
    />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('writes')">
    <ChoiceField v-model="settings.writes.qos" label="Quality of service of writes" :choices="qualities" />
    <v-switch v-model="settings.writes.retain" label="The broker keeps the last one for those who come later" />
    <WriteFields v-model="settings.writes" :message="message('writes.within')" @left="left('writes.within')" />
  </SettingsFold>
  <SettingsFold title="Network interface" :summary="summary.network" :has-problem="wrong('localAddress')">
    <TextField
      v-model="settings.localAddress"
      label="Use the interface with this address"
      mono
      placeholder="as this machine chooses"
      :message="message('localAddress')"
      @left="left('localAddress')"
    />
  </SettingsFold>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
.first {
  display: grid;
  grid-template-columns: 1fr 110px;
  gap: 12px;
  margin-bottom: 16px;
}
.identity {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 12px;
  margin-bottom: 16px;
}
.clear {
  margin: -6px 0 14px;
}
</style>
