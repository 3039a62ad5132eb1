<script setup lang="ts">
import { operationContract, type HttpSettings, type Operation } from '#core/http/settings'
import type { ApiDescription } from '#shared/links/webCall'
import { blankSignIn } from '~/links/blankSignIn'
import { duration } from '#core/text/duration'

/** What belongs to a web API: where it is, how we sign in there, and what is asked; the rest folded, readable as a line. */
const settings = defineModel<HttpSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const between = [
  { value: 'none' as const, title: 'nothing' },
  { value: 'http' as const, title: 'a proxy' },
]
const goBy = (kind: HttpSettings['proxy']['kind']) =>
  (settings.value.proxy = kind === 'http' ? { kind, host: '', port: 3128, identity: { kind: 'anonymous' } } : { kind })
const isClear = computed(() => /^http:/i.test(settings.value.base) && settings.value.signIn.kind !== 'none')
const addOperation = () => {
  const names = new Set(settings.value.operations.map(({ name }) => name))
  let n = settings.value.operations.length + 1
  while (names.has(`operation${n}`)) n++
  settings.value.operations.push(operationContract.parse({ name: `operation${n}` }))
}

const isReading = ref(false)
/** What is there already under a name gives way; where nothing was entered yet, address and sign-in are as the description has them. */
const takeDescribed = (operations: Operation[], { base, signIn }: ApiDescription) => {
  const names = new Set(operations.map(({ name }) => name))
  settings.value.operations = [...settings.value.operations.filter(({ name }) => !names.has(name)), ...operations]
  if (settings.value.base === '' && base !== null) settings.value.base = base
  if (settings.value.signIn.kind === 'none' && signIn) {
    settings.value.signIn = { ...blankSignIn(signIn.kind), ...signIn } as HttpSettings['signIn']
  }
  isReading.value = false
}

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { trust, proxy, headers, interval, atOnce, perMinute, largest, patience } = settings.value
  const shown = trust.certificate.kind === 'none' ? '' : ', we show a certificate'
  return {
    trust: `${trust.verify ? (trust.authority ? 'their certificate verified by an authority given here' : 'their certificate verified') : 'their certificate is not verified'}${shown}`,
    proxy: proxy.kind === 'none' ? 'straight there' : `through ${proxy.host || 'a proxy'}:${proxy.port}`,
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
  <ApiSignInFields v-model="settings.signIn" :message="(field) => message(`signIn${field}`)" @left="left(`signIn.${$event}`)" />
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
  <div class="more">
    <v-btn @click="addOperation">Add an operation</v-btn>
    <v-btn :aria-expanded="isReading" @click="isReading = !isReading">Read them from its description …</v-btn>
  </div>
  <DescriptionPanel v-if="isReading" :settings="settings" :link-id="linkId" @take="takeDescribed" @close="isReading = false" />
  <SettingsFold title="Protection" :summary="summary.trust" :has-problem="wrong('trust')">
    <TrustFields v-model="settings.trust" :message="(field) => message(`trust.${field}`)" @left="left(`trust.${$event}`)" />
  </SettingsFold>
  <SettingsFold title="Way there" :summary="summary.proxy" :has-problem="wrong('proxy')">
    <ChoiceField :model-value="settings.proxy.kind" label="In between stands" :choices="between" @update:model-value="goBy" />
    <ProxyFields
      v-if="settings.proxy.kind === 'http'"
      v-model="settings.proxy"
      :message="(field) => message(`proxy.${field}`)"
      @left="left(`proxy.${$event}`)"
    />
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
.light {
  font-weight: 400;
}
.more {
  display: flex;
  gap: 8px;
  margin: 8px 0 14px;
}
.wide {
  grid-column: 1 / -1;
}
.clear {
  margin: 0 0 12px;
}
</style>
