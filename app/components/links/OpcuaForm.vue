<script setup lang="ts">
import { parseEndpoint } from '#core/opcua/endpointAddress'
import { signInText, tokenFor, type Offer, type SignInKind } from '#core/opcua/offers'
import type { Identity, OpcuaSettings } from '#core/opcua/settings'
import { duration } from '#core/text/duration'
import { plainLink } from '#shared/links/link'
import { linkContracts } from '#shared/links/registry'

/** What belongs to an OPC UA link: its address to start; the way in and the identity follow from what is offered there. */
const settings = defineModel<OpcuaSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const asked = () => {
  const parsed = linkContracts.opcua.settings.safeParse({ ...settings.value, identity: { kind: 'anonymous' } })
  return parsed.success ? { ...plainLink, name: 'offers', kind: 'opcua' as const, on: false, settings: parsed.data } : null
}
const offers = useOffers(asked, () => props.linkId)
const chosenByHand = ref(props.linkId !== null)

/** A server that dials us is asked when somebody wishes it: it may take a minute. */
const isToBeAsked = () => !settings.value.awaits && parseEndpoint(settings.value.address).ok
watch(
  () => [settings.value.address, JSON.stringify(settings.value.awaits)],
  () => {
    offers.forget()
    if (isToBeAsked()) void offers.askSoon()
  },
)
onMounted(() => isToBeAsked() && offers.ask())
watch(offers.found, (found) => {
  const safest = found?.offers[0]
  if (safest && !chosenByHand.value) take(safest)
})

const take = (offer: Offer) => {
  settings.value.policy = offer.policy
  settings.value.mode = offer.mode
  if (offer.identities.length > 0 && !offer.identities.includes(tokenFor(settings.value.identity.kind))) signInBy(offer.identities[0]!)
}
const choose = (offer: Offer) => {
  chosenByHand.value = true
  take(offer)
}
const offer = computed(
  () => offers.found.value?.offers.find(({ policy, mode }) => policy === settings.value.policy && mode === settings.value.mode) ?? null,
)

const blankIdentity: Record<SignInKind, () => Identity> = {
  anonymous: () => ({ kind: 'anonymous' }),
  password: () => ({ kind: 'password', user: '', password: { plain: '' }, inClear: false }),
  certificate: () => ({ kind: 'certificate', certificate: '', key: { plain: '' } }),
  ours: () => ({ kind: 'ours' }),
}
const signInBy = (kind: SignInKind) => (settings.value.identity = blankIdentity[kind]())
const identities = computed(() =>
  (['anonymous', 'password', 'ours', 'certificate'] as const).map((kind) => ({
    value: kind,
    title: signInText[kind],
    ...(offer.value && !offer.value.identities.includes(tokenFor(kind)) ? { subtitle: 'not taken on this way in' } : {}),
  })),
)

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { reading, patience, writes, takesOver } = settings.value
  return {
    takesOver: takesOver
      ? `everything there, ${takesOver.folder ? `into ${takesOver.folder}` : 'as it stands there'}`
      : 'off: tags are made by hand',
    reading: `notified every ${ms(reading.publishing)}, sampled every ${ms(reading.sampling)}, queue ${reading.queue}`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    writes: `${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most`,
  }
})
</script>

<template>
  <PairedNote v-if="settings.paired" :paired="settings.paired" />
  <OpcuaReach v-model="settings" :message-for="messageFor" @left="$emit('left', $event)" />
  <OpcuaOffers
    :is-awaited="settings.awaits !== null"
    :found="offers.found.value"
    :asking="offers.asking.value"
    :policy="settings.policy"
    :mode="settings.mode"
    @choose="choose"
    @ask="offers.ask"
    @go-to="settings.address = $event"
  />
  <FaultNote v-if="settings.awaits && offers.problem.value" :fault="offers.problem.value.why" class="gap" />
  <p v-if="message('mode')" class="is-broken">{{ message('mode') }}</p>
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
  <div v-if="settings.identity.kind === 'password' && settings.policy === 'None'" class="clear">
    <p class="is-late">
      Nothing encrypts this way in. Unless the server has the password encrypted by itself, everybody on the way can read it, and it is not
      sent.
    </p>
    <v-checkbox v-model="settings.identity.inClear" label="The password may travel in clear" density="compact" hide-details />
  </div>
  <div v-if="settings.identity.kind === 'certificate'" class="pair">
    <div>
      <label class="label" for="user-certificate">User certificate, PEM</label>
      <v-textarea
        id="user-certificate"
        v-model="settings.identity.certificate"
        rows="4"
        class="mono"
        :error-messages="message('identity.certificate')"
        @blur="left('identity.certificate')"
      />
    </div>
    <SecretField
      v-model="settings.identity.key"
      label="Its private key, PEM"
      lines
      :message="message('identity.key') || message('identity.key.plain')"
      @left="left('identity.key.plain')"
    />
  </div>

  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('reading')">
    <NumberField
      v-model="settings.reading.publishing"
      label="Notified every"
      unit="ms"
      :message="message('reading.publishing')"
      @left="left('reading.publishing')"
    />
    <NumberField
      v-model="settings.reading.sampling"
      label="Sampled there every"
      unit="ms"
      hint="0: as fast as it can"
      :message="message('reading.sampling')"
      @left="left('reading.sampling')"
    />
    <NumberField
      v-model="settings.reading.queue"
      label="Values waiting between two"
      hint="1: only the newest is told"
      :message="message('reading.queue')"
      @left="left('reading.queue')"
    />
    <v-switch v-model="settings.reading.readInstead" label="Read when notifications stay out" />
    <v-switch v-model="settings.reading.fillGaps" label="After an outage fill in what it recorded" />
  </SettingsFold>
  <SettingsFold title="Taking over" :summary="summary.takesOver" :has-problem="wrong('takesOver')">
    <TakingOverFields v-model="settings.takesOver" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
    <NumberField
      v-model="settings.patience.session"
      label="Session kept for"
      unit="ms"
      hint="by the server, after a break"
      :message="message('patience.session')"
      @left="left('patience.session')"
    />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('writes')">
    <WriteFields v-model="settings.writes" :message="message('writes.within')" @left="left('writes.within')" />
  </SettingsFold>
  <OwnCertificateLine />
</template>

<style scoped>
.clear {
  margin: -6px 0 14px;
}
.clear p {
  margin: 0;
}
.gap {
  margin-bottom: 14px;
}
.identity,
.pair {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 12px;
  margin-bottom: 16px;
}
.pair {
  grid-template-columns: repeat(2, minmax(0, 1fr));
}
</style>
