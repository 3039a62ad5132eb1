<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { bridgeProblems } from '#core/bridges/problems'
import { bridgeContract, bringsMessage, type BridgeDraft, type Destination } from '#core/bridges/settings'
import { loopText, loopThrough } from '#core/bridges/loops'
import { givenNames, inputAspects } from '#core/bridges/names'
import { awayText, destinationText, inputText, triggerText } from '#core/bridges/words'
import { changeBridge, makeBridge, previewBridge } from '#shared/api/bridges'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgePreview } from '#shared/bridges/preview'
import { blankDestination, blankInput, blankTrigger } from '~/bridges/blank'

/** A bridge: a sentence that is edited part by part, and what goes into each field of each destination. */
const props = defineProps<{ initial: BridgeDraft; bridge: Bridge | null; renaming?: boolean }>()
const emit = defineEmits<{ saved: [bridge: Bridge] }>()
const lists = useLists()

const known = {
  link: (id: number) => lists.links.find((link) => link.id === id),
  outlet: (id: number) => lists.outlets.find((outlet) => outlet.id === id),
}
const form = useDraft<BridgeDraft>(props.initial, bridgeContract, (draft) => bridgeProblems(draft, known))
const { draft } = form
const nameOf = (of: 'link' | 'outlet', id: number) => known[of](id)?.name ?? `a${of === 'link' ? '' : 'n'} ${of}`
/** Where it would set itself off, by which bridges. */
const loop = computed(() =>
  loopThrough(
    { ...draft.value, name: draft.value.name || 'this bridge' },
    lists.bridges.filter(({ id, on }) => on && id !== props.bridge?.id),
  ),
)
const wrong = (prefix: string) =>
  form.triedToSave.value && [...form.problems.value.keys()].some((path) => path === prefix || path.startsWith(`${prefix}.`))

/** The part whose sheet is open, as in take.0. */
const open = ref<string | null>(props.bridge ? null : 'when.0')
const press = (part: string) => (open.value = open.value === part ? null : part)
const openIndex = (of: 'when' | 'take' | 'send') => {
  const [kind, index] = (open.value ?? '').split('.')
  return kind === of && draft.value[of][Number(index)] ? Number(index) : null
}
const isAway = computed(() => open.value?.endsWith('.away') ?? false)

const addTrigger = () => (open.value = `when.${draft.value.when.push(blankTrigger('change', lists)) - 1}`)
const addInput = () => {
  const isMessage = draft.value.when.some(bringsMessage)
  open.value = `take.${draft.value.take.push(blankInput(isMessage ? 'member' : 'tag', '')) - 1}`
}
const addDestination = () => {
  const number = Math.max(0, ...draft.value.send.map((one) => one.number)) + 1
  open.value = `send.${draft.value.send.push(blankDestination('file', number, lists, [])) - 1}`
}
const remove = (of: 'when' | 'take' | 'send', at: number) => {
  draft.value[of].splice(at, 1)
  open.value = null
}

const names = computed(() => [
  ...draft.value.take.flatMap(({ name }) => [name, ...inputAspects.map((aspect) => `${name}_${aspect}`)]),
  ...givenNames.map(({ name }) => name),
])

const preview = ref<BridgePreview | null>(null)
const isSound = computed(() => {
  const parsed = bridgeContract.safeParse({ ...draft.value, name: draft.value.name || 'new' })
  return parsed.success && bridgeProblems(parsed.data, known).length === 0 ? parsed.data : null
})
const look = async () => {
  const bridge = isSound.value
  if (!bridge) return
  const found = await callApi(previewBridge, { body: { bridge, bridgeId: props.bridge?.id ?? null, message: null } }).catch(() => null)
  if (found) preview.value = found
}
useRepeated(look, 2000)
watch(draft, useDebounceFn(look, 300), { deep: true })
const previewOf = ({ number }: Destination) => preview.value?.destinations.find((one) => one.number === number) ?? null

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
      <div v-if="bridge === null || renaming" class="top">
        <TextField
          v-model="draft.name"
          label="Name"
          placeholder="Billing rows"
          :message="form.messageFor('name')"
          autofocus
          @left="form.touch('name')"
        />
        <v-switch v-if="bridge === null" v-model="draft.on" label="Switched on" class="on" />
      </div>
      <p class="words">
        <strong>When </strong>
        <template v-for="(trigger, i) in draft.when" :key="`when ${i}`">
          <strong v-if="i > 0"> or </strong>
          <SentencePart
            :text="triggerText(trigger, nameOf)"
            :open="open === `when.${i}`"
            :wrong="wrong(`when.${i}`)"
            @press="press(`when.${i}`)"
          />
        </template>
        <span v-if="draft.when.length === 0" class="quiet">somebody runs it by hand</span>
        <button type="button" class="more" @click="addTrigger">{{ draft.when.length ? 'or when …' : 'when …' }}</button>
        <strong>, take </strong>
        <template v-for="(input, i) in draft.take" :key="`take ${i}`">
          <strong v-if="i > 0"> and </strong>
          <SentencePart :text="inputText(input)" :open="open === `take.${i}`" :wrong="wrong(`take.${i}`)" @press="press(`take.${i}`)" />
        </template>
        <span v-if="draft.take.length === 0" class="quiet">what set it off</span>
        <button type="button" class="more" @click="addInput">and take …</button>
        <strong>, send </strong>
        <template v-for="(destination, i) in draft.send" :key="destination.number">
          <strong v-if="i > 0">, and send </strong>
          <SentencePart
            :text="destinationText(destination, nameOf)"
            :open="open === `send.${i}`"
            :wrong="wrong(`send.${i}`)"
            @press="press(`send.${i}`)"
          />
          <strong>, and if it is away </strong>
          <SentencePart
            :text="awayText(destination.away)"
            :open="open === `send.${i}.away`"
            :wrong="wrong(`send.${i}.away`)"
            @press="press(`send.${i}.away`)"
          />
        </template>
        <button type="button" class="more" @click="addDestination">and send …</button>
      </p>
      <p v-if="loop" class="is-late loop">
        It sets itself off again: {{ loopText(loop) }}. That comes to rest where values no longer change; where it does not, the engine
        stops it.
      </p>
      <div v-if="open" class="panel">
        <TriggerPanel
          v-if="openIndex('when') !== null"
          :key="open"
          v-model="draft.when[openIndex('when')!]!"
          :path="open"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <InputPanel
          v-else-if="openIndex('take') !== null"
          :key="open"
          v-model="draft.take[openIndex('take')!]!"
          :path="open"
          :others="draft.take.filter((_, i) => i !== openIndex('take')).map(({ name }) => name)"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <AwayPanel
          v-else-if="openIndex('send') !== null && isAway"
          :key="open"
          v-model="draft.send[openIndex('send')!]!"
          :path="`send.${openIndex('send')}`"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <DestinationPanel
          v-else-if="openIndex('send') !== null"
          :key="open"
          v-model="draft.send[openIndex('send')!]!"
          :path="open"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <div class="done">
          <v-btn @click="open = null">Done</v-btn>
          <v-btn v-if="openIndex('when') !== null" color="break" @click="remove('when', openIndex('when')!)">Remove this</v-btn>
          <v-btn v-if="openIndex('take') !== null" color="break" @click="remove('take', openIndex('take')!)">Remove this</v-btn>
          <v-btn
            v-if="openIndex('send') !== null && !isAway && draft.send.length > 1"
            color="break"
            @click="remove('send', openIndex('send')!)"
            >Remove this, and what is kept for it</v-btn
          >
        </div>
      </div>
      <div v-if="preview?.inputs.length || preview?.fault" class="inputs">
        <span class="quiet">Now, by {{ preview.by }}:</span>
        <span v-for="input in preview.inputs" :key="input.name" class="mono" :class="{ 'is-late': !input.good }"
          >{{ input.name }} {{ input.text }}</span
        >
        <span v-if="preview.fault" class="is-late">{{ preview.fault.what }}</span>
      </div>
    </section>
    <DestinationSheet
      v-for="(destination, i) in draft.send"
      :key="destination.number"
      v-model="draft.send[i]!"
      :path="`send.${i}`"
      :title="draft.send.length > 1 ? `Cross-connections: ${destinationText(destination, nameOf)}` : 'Cross-connections'"
      :names="names"
      :preview="previewOf(destination)"
      :message-for="form.messageFor"
      @left="form.touch"
    />
    <div v-if="bridge === null || form.isDirty.value" class="sheet foot">
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
.loop {
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
.words {
  margin: 0;
  font-size: 15px;
  line-height: 36px;
}
.words strong {
  font-weight: 600;
}
.more {
  margin-left: 6px;
  font-size: 13px;
  color: var(--primary);
}
.panel {
  margin-top: 12px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-left: 3px solid var(--primary);
  border-radius: 6px;
}
.panel :deep(.fields) {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 12px;
}
.panel :deep(.wide) {
  grid-column: span 2;
}
.panel :deep(.note) {
  align-self: center;
  margin: 0;
}
.done {
  display: flex;
  gap: 10px;
  margin-top: 12px;
}
.inputs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 12px;
  padding-top: 10px;
  border-top: 1px solid var(--line-soft);
}
.foot {
  padding: 0 18px 14px;
  margin-top: 16px;
}
.foot :deep(.foot) {
  border-top: 0;
  margin-top: 0;
}
</style>
