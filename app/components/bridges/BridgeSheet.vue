<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { bridgeProblems } from '#core/bridges/problems'
import { bridgeContract, bringsMessage, type BridgeDraft, type Destination } from '#core/bridges/settings'
import { loopText, loopThrough } from '#core/bridges/loops'
import { givenNames, inputAspects } from '#core/bridges/names'
import { destinationText } from '#core/bridges/words'
import { changeBridge, makeBridge, previewBridge } from '#shared/api/bridges'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgePreview, SampleMessage } from '#shared/bridges/preview'

/** A bridge: a sentence that is edited part by part, and what goes into each field of each destination. */
const props = defineProps<{
  initial: BridgeDraft
  bridge: Bridge | null
  /** What a sheet without anything brought along would begin with. */
  blank?: BridgeDraft
  renaming?: boolean
}>()
const emit = defineEmits<{ saved: [bridge: Bridge] }>()
const lists = useLists()
const places = useNodeChoices()

const known = {
  link: (id: number) => lists.links.find((link) => link.id === id),
  outlet: (id: number) => lists.outlets.find((outlet) => outlet.id === id),
}
const form = useDraft<BridgeDraft>(props.initial, bridgeContract, (draft) => bridgeProblems(draft, known), props.blank)
const { draft } = form
/** Where it would set itself off, by which bridges. */
const loop = computed(() =>
  loopThrough(
    { ...draft.value, name: draft.value.name || 'this bridge' },
    lists.bridges.filter(({ id, on }) => on && id !== props.bridge?.id),
  ),
)
const wrong = (prefix: string) =>
  form.triedToSave.value && [...form.problems.value.keys()].some((path) => path === prefix || path.startsWith(`${prefix}.`))

const preview = ref<BridgePreview | null>(null)
const message = ref<SampleMessage | null>(null)
const soundOf = (whole: BridgeDraft) => {
  const parsed = bridgeContract.safeParse({ ...whole, name: whole.name || 'new' })
  return parsed.success && bridgeProblems(parsed.data, known).length === 0 ? parsed.data : null
}
/** What comes can be shown before anybody said where it goes. */
const nowhere = [{ kind: 'tags', number: 1000, fields: [{ into: 'nowhere', from: 'run' }] }] as unknown as BridgeDraft['send']
const shownBridge = computed(() => soundOf(draft.value) ?? soundOf({ ...draft.value, send: nowhere }))
const look = async () => {
  const bridge = shownBridge.value
  if (!bridge) return
  const body = { bridge, bridgeId: props.bridge?.id ?? null, message: message.value }
  const found = await callApi(previewBridge, { body }).catch(() => null)
  if (found) preview.value = found
}
/** A database is asked less often than our own engine, and a service of others less often still. */
const beatsBetween = { query: 5, call: 15 }
const between = computed(() =>
  Math.max(1, ...draft.value.take.map(({ kind }) => (kind === 'query' || kind === 'call' ? beatsBetween[kind] : 1))),
)
let beats = 0
const isTurn = () => beats++ % between.value === 0
useRepeated(() => (isTurn() ? look() : Promise.resolve()), 2000)
watch([draft, message], useDebounceFn(look, 300), { deep: true })
const unknown = computed(() => (preview.value?.unknown ?? []).filter((path) => path !== 'nowhere'))
const example = computed(() => message.value?.payload ?? preview.value?.message ?? '')
const previewOf = ({ number }: Destination) => preview.value?.destinations.find((one) => one.number === number) ?? null

const names = computed(() => [
  ...draft.value.take.flatMap(({ name }) => {
    const parts = preview.value?.inputs.find((input) => input.name === name)?.parts ?? []
    return [name, ...[...parts, ...inputAspects].map((part) => `${name}_${part}`)]
  }),
  ...draft.value.lookUps.map(({ name }) => `${name}(…)`),
  ...givenNames.map(({ name }) => name),
])
/** What a message could come on. */
const heardOn = computed(() => {
  const trigger = draft.value.when.find(bringsMessage)
  return !trigger ? null : 'filter' in trigger ? trigger.filter : 'files' in trigger ? trigger.files : ''
})

const saving = useSaving<BridgeDraft, Bridge>({
  form,
  opened: props.bridge,
  send: (bridge, revision) =>
    props.bridge
      ? callApi(changeBridge, { params: { id: props.bridge.id }, body: { revision, bridge } })
      : callApi(makeBridge, { body: bridge }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: (saved) => `Bridge “${saved.name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const { busy, refused, theirs, question } = saving
const problemCount = computed(() => (form.triedToSave.value ? form.problems.value.size : 0))
</script>

<template>
  <form class="bridge" novalidate @submit.prevent="saving.save">
    <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="saving.take" @overwrite="saving.saveOverTheirs" />
    <section class="sheet sentence" aria-label="What the bridge does">
      <div v-if="bridge === null || renaming || places.length > 1" class="top">
        <TextField
          v-if="bridge === null || renaming"
          v-model="draft.name"
          label="Name"
          placeholder="Billing rows"
          :message="form.messageFor('name')"
          autofocus
          @left="form.touch('name')"
        />
        <ChoiceField
          v-if="places.length > 1"
          v-model="draft.nodeId"
          label="Runs on"
          :choices="places"
          :message="form.messageFor('nodeId')"
        />
        <v-switch v-if="bridge === null" v-model="draft.on" label="Switched on" class="on" />
      </div>
      <BridgeSentence
        v-model="draft"
        :is-new="bridge === null"
        :example="example"
        :wrong="wrong"
        :message-for="form.messageFor"
        @left="form.touch"
      >
        <p v-if="loop" class="is-late note">
          It sets itself off again: {{ loopText(loop) }}. That comes to rest where values no longer change; where it does not, the engine
          stops it.
        </p>
        <p v-if="unknown.length" class="is-late note">
          No tag goes by <span class="mono">{{ unknown.slice(0, 5).join(', ') }}</span>{{
            unknown.length > 5 ? ` and ${unknown.length - 5} more` : ''
          }}
          yet.
        </p>
      </BridgeSentence>
      <div v-if="preview?.inputs.length || preview?.fault" class="inputs">
        <span class="quiet">Now, by {{ preview.by }}:</span>
        <span v-for="input in preview.inputs" :key="input.name" class="mono" :class="{ 'is-late': !input.good }"
          >{{ input.name }} {{ input.text }}</span
        >
        <span v-if="preview.fault" class="is-late">{{ preview.fault.what }}</span>
      </div>
    </section>
    <MessageTrial v-if="heardOn !== null" v-model="message" :filter="heardOn" />
    <DestinationSheet
      v-for="(destination, i) in draft.send"
      :key="destination.number"
      v-model="draft.send[i]!"
      :path="`send.${i}`"
      :title="draft.send.length > 1 ? `Cross-connections: ${destinationText(destination, lists.placeName)}` : 'Cross-connections'"
      :names="names"
      :preview="previewOf(destination)"
      :message-for="form.messageFor"
      @left="form.touch"
    />
    <LookUpTables v-model="draft.lookUps" :message-for="form.messageFor" @left="form.touch" />
    <div v-if="bridge === null || form.isDirty.value" class="sheet bottom">
      <SheetFoot
        :title="bridge ? 'Save changes' : 'Save bridge'"
        :busy="busy"
        :is-new="bridge === null"
        :is-dirty="form.isDirty.value"
        :problems="problemCount"
        @back="saving.take(bridge!)"
      />
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.note {
  margin: 8px 0 0;
}
.gap {
  margin-bottom: 12px;
}
.sentence {
  padding: 14px 18px 16px;
}
.top {
  margin-bottom: 14px;
  display: grid;
  grid-template-columns: minmax(0, 420px) auto;
  gap: 20px;
}
.on {
  padding-top: 20px;
}
.inputs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 12px;
  padding-top: 10px;
  border-top: 1px solid var(--line-soft);
}
.bottom {
  padding: 14px 18px;
  margin-top: 16px;
}
.bottom :deep(.foot) {
  border-top: 0;
  margin-top: 0;
  padding-top: 0;
}
</style>
