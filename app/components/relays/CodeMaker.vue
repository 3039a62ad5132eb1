<script setup lang="ts">
import { makePairingCode } from '#shared/api/relays'
import { codeDraft, type CodeDraft, type GiveWishes, type Relay, type TakeWishes } from '#shared/pairing'

/** Makes a code for another copy: which way values go, and where that copy reaches this one. */
const props = defineProps<{ again: Relay | null }>()
const emit = defineEmits<{ made: []; anew: [] }>()
const live = useLive()

interface Typed extends Omit<CodeDraft, 'values' | 'take' | 'give'> {
  values: CodeDraft['values']
  take: TakeWishes
  give: GiveWishes
}
const blank = (): Typed => ({
  ...{ values: 'to-maker', host: '', outsidePort: null, interface: '0.0.0.0', port: 4843, minutes: 15 },
  take: { name: '', folder: '', again: null },
  give: { name: '', folder: '', may: 'read', onRequest: true, again: null },
})
const { draft, isValid, messageFor, touch, triedToSave, fromServer } = useDraft(blank(), codeDraft)
watch(
  () => props.again,
  (again) => {
    draft.value.take.again = again?.of === 'link' ? again.id : null
    draft.value.give.again = again?.of === 'outlet' ? again.id : null
    if (again) draft.value.values = again.of === 'link' ? 'to-maker' : 'from-maker'
  },
  { immediate: true },
)

const directions = [
  { value: 'to-maker', title: 'Values come here', subtitle: 'the other copy is at the plant, and dials us' },
  { value: 'from-maker', title: 'Values go there', subtitle: 'the plant is here, and the other copy dials us' },
] as const
const own = computed(() => (live.status?.interfaces ?? []).map(({ address }) => address).filter((address) => !address.startsWith('127.')))
const { busy, refused, attempt } = useAttempt()
const make = () =>
  attempt(async () => {
    triedToSave.value = true
    if (!isValid.value) return
    try {
      await callApi(makePairingCode, { body: draft.value })
    } catch (error) {
      fromServer.value = asRefused(error).fields
      throw error
    }
    emit('made')
  })
</script>

<template>
  <form class="sheet part" @submit.prevent="make">
    <h2 class="sheet-title">Make a code <span class="quiet light">here, where connections can come in</span></h2>
    <p v-if="again" class="note">
      For {{ again.of }} “{{ again.name }}”, which is paired with “{{ again.partner }}”.
      <button type="button" class="link" @click="$emit('anew')">a new one instead</button>
    </p>
    <div class="grid">
      <ChoiceField v-if="!again" v-model="draft.values" label="Direction" :choices="directions" />
      <SuggestField
        v-model="draft.host"
        label="The other copy reaches us at"
        :among="own"
        placeholder="office.port.example"
        :message="messageFor('host')"
        @left="touch('host')"
      />
      <TakeFields
        v-if="draft.values === 'to-maker'"
        v-model="draft.take"
        theirs="as the other site is called"
        :message="(path: string) => messageFor(`take.${path}`)"
        @left="touch(`take.${$event}`)"
      />
      <GiveFields
        v-else
        v-model="draft.give"
        theirs="as the other site is called"
        :message="(path: string) => messageFor(`give.${path}`)"
        @left="touch(`give.${$event}`)"
      />
    </div>
    <SettingsFold
      class="gap"
      title="Door"
      :summary="`port ${draft.port} of ${draft.interface}, code good for ${draft.minutes} min`"
      :has-problem="['interface', 'port', 'outsidePort', 'minutes'].some((path) => messageFor(path) !== '')"
    >
      <InterfaceField v-model="draft.interface" :message="messageFor('interface')" />
      <NumberField v-model="draft.port" label="Port" :message="messageFor('port')" @left="touch('port')" />
      <NumberField
        v-model="draft.outsidePort"
        label="Port outside, if address translation makes another one"
        :message="messageFor('outsidePort')"
        @left="touch('outsidePort')"
      />
      <NumberField v-model="draft.minutes" label="The code holds" unit="min" :message="messageFor('minutes')" @left="touch('minutes')" />
    </SettingsFold>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <div class="foot">
      <BusyButton type="submit" variant="flat" :busy="busy">Make the code</BusyButton>
      <span v-if="draft.values === 'from-maker' && again" class="is-late">Nothing goes out by this outlet while the code is open.</span>
    </div>
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 10px 14px;
  align-items: start;
}
.foot {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-top: 12px;
}
.gap {
  margin-top: 10px;
}
.note {
  margin: 0 0 8px;
}
</style>
