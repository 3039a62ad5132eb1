<script setup lang="ts">
import { operationContract, type HttpSettings } from '#core/http/settings'
import { duration } from '#core/text/duration'

/** What belongs to a web API: where it is, how we sign in there, and what is asked; the rest folded, readable as a line. */
const settings = defineModel<HttpSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const ways = [
  { value: 'none' as const, title: 'nothing' },
  { value: 'key' as const, title: 'a key' },
  { value: 'bearer' as const, title: 'a token', subtitle: 'as Bearer' },
  { value: 'basic' as const, title: 'name and password' },
]
const signInBy = (kind: HttpSettings['signIn']['kind']) => {
  const blank = { plain: '' }
  if (kind === 'key') settings.value.signIn = { kind, in: 'header', name: 'X-API-Key', key: blank }
  else if (kind === 'bearer') settings.value.signIn = { kind, token: blank }
  else if (kind === 'basic') settings.value.signIn = { kind, user: '', password: blank }
  else settings.value.signIn = { kind }
}
const places = [
  { value: 'header' as const, title: 'in a header' },
  { value: 'query' as const, title: 'in the query', subtitle: 'logs on the way may show it' },
]
const isClear = computed(() => /^http:/i.test(settings.value.base) && settings.value.signIn.kind !== 'none')
const addOperation = () => {
  const names = new Set(settings.value.operations.map(({ name }) => name))
  let n = settings.value.operations.length + 1
  while (names.has(`operation${n}`)) n++
  settings.value.operations.push(operationContract.parse({ name: `operation${n}` }))
}

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { trust, headers, interval, atOnce, perMinute, largest, patience } = settings.value
  return {
    trust: trust.verify
      ? trust.authority
        ? 'their certificate verified by an authority given here'
        : 'their certificate verified'
      : 'their certificate is not verified',
    headers: headers.length === 0 ? 'none besides the usual' : headers.map(({ name }) => name).join(', '),
    use: `every ${ms(interval)}, ${atOnce} at once${perMinute === null ? '' : `, ${perMinute} a minute at most`}, answers up to ${largest} MB`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
  }
})
</script>

<template>
  <TextField
    v-model="settings.base"
    label="Base address"
    mono
    placeholder="https://tariffs.port.example/v1"
    :message="message('base')"
    class="base"
    @left="left('base')"
  />
  <div class="signing">
    <ChoiceField :model-value="settings.signIn.kind" label="We sign in by" :choices="ways" @update:model-value="signInBy" />
    <template v-if="settings.signIn.kind === 'basic'">
      <TextField
        v-model="settings.signIn.user"
        label="Name to sign in with"
        :message="message('signIn.user')"
        @left="left('signIn.user')"
      />
      <SecretField
        v-model="settings.signIn.password"
        label="Password"
        :message="message('signIn.password') || message('signIn.password.plain')"
        @left="left('signIn.password.plain')"
      />
    </template>
    <SecretField
      v-else-if="settings.signIn.kind === 'bearer'"
      v-model="settings.signIn.token"
      label="Token"
      :message="message('signIn.token') || message('signIn.token.plain')"
      @left="left('signIn.token.plain')"
    />
    <template v-else-if="settings.signIn.kind === 'key'">
      <SecretField
        v-model="settings.signIn.key"
        label="Key"
        :message="message('signIn.key') || message('signIn.key.plain')"
        @left="left('signIn.key.plain')"
      />
      <ChoiceField v-model="settings.signIn.in" label="It goes" :choices="places" />
      <TextField v-model="settings.signIn.name" label="Under the name" mono :message="message('signIn.name')" @left="left('signIn.name')" />
    </template>
  </div>
  <p v-if="isClear" class="is-late clear">Nothing encrypts this connection: everybody on the way can read what signs us in.</p>
  <h2 class="sheet-title">
    Operations <span class="quiet light">what it is asked; what stands in braces is filled in with each call</span>
  </h2>
  <OperationFields
    v-for="(_, i) in settings.operations"
    :key="i"
    v-model="settings.operations[i]!"
    :path="`operations.${i}`"
    :settings="settings"
    :link-id="linkId"
    :message="message"
    @left="left"
    @drop="settings.operations.splice(i, 1)"
  />
  <p v-if="!settings.operations.length" class="quiet">None yet. A tag names the operation whose answer it lives in.</p>
  <v-btn class="more" @click="addOperation">Add an operation</v-btn>
  <SettingsFold title="Protection" :summary="summary.trust" :has-problem="wrong('trust')">
    <v-switch v-model="settings.trust.verify" label="Verify their certificate" />
    <div v-if="settings.trust.verify" class="wide">
      <label class="label" for="http-authority">Certificates of its authority, in PEM</label>
      <v-textarea
        id="http-authority"
        v-model="settings.trust.authority"
        rows="4"
        class="mono"
        placeholder="empty: the authorities that this machine knows"
        :error-messages="message('trust.authority')"
        @blur="left('trust.authority')"
      />
    </div>
  </SettingsFold>
  <SettingsFold title="Headers" :summary="summary.headers" :has-problem="wrong('headers')">
    <HeaderFields v-model="settings.headers" what="Header" path="headers" :message="message" class="wide" @left="left" />
  </SettingsFold>
  <SettingsFold title="How often" :summary="summary.use" :has-problem="wrong('interval', 'atOnce', 'perMinute', 'largest')">
    <NumberField v-model="settings.interval" label="Each call every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <NumberField v-model="settings.atOnce" label="Calls at once" :message="message('atOnce')" @left="left('atOnce')" />
    <NumberField
      v-model="settings.perMinute"
      label="Calls a minute at most"
      hint="empty: as many as are wanted"
      :message="message('perMinute')"
      @left="left('perMinute')"
    />
    <NumberField v-model="settings.largest" label="Largest answer" unit="MB" :message="message('largest')" @left="left('largest')" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
</template>

<style scoped>
.base {
  margin-bottom: 12px;
}
.signing {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: 12px;
  margin-bottom: 12px;
}
.light {
  font-weight: 400;
}
.more {
  margin: 8px 0 14px;
}
.wide {
  grid-column: 1 / -1;
}
.clear {
  margin: 0 0 12px;
}
</style>
