<script setup lang="ts">
import { linkKinds, protocolOf } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { benchPoint, benchTag, mostKept, type BenchPoint } from '#shared/bench'
import { tagProblems } from '#shared/sources/registry'
import { linkForms } from '~/links/registry'
import { linkIn } from '~/sources/face'

/** A link, an address and how to read it: for one point, or for several in a row. */
const props = defineProps<{ busy: boolean }>()
const emit = defineEmits<{ read: [points: BenchPoint[]]; keep: [points: BenchPoint[]] }>()

const lists = useLists()
const route = useRoute()
const linkOf = (id: number) => linkIn(lists.links, id)
const blank = (): BenchPoint => ({
  linkId: Number(route.query.link) || lists.pointLinks[0]?.id || 0,
  ...{ address: String(route.query.address ?? ''), type: 'uint16', options: {}, interval: 1000 },
})
const form = useDraft<BenchPoint>(blank(), benchPoint, (point) =>
  tagProblems(benchTag(point), linkOf).map(({ path, message }) => ({ path: path.replace(/^source\./, ''), message })),
)
const { draft, messageFor, touch } = form
const link = computed(() => linkOf(draft.value.linkId) ?? null)
const kind = computed(() => link.value?.kind ?? linkKinds[0])
const protocol = computed(() => protocolOf(kind.value))
const facts = computed(() => (link.value ? protocol.value.describe(draft.value.address, link.value.settings) : null))
const linkChoices = computed(() =>
  lists.pointLinks.map(({ id, name, on }) => ({ value: id, title: name, subtitle: on ? '' : 'switched off' })),
)
const types = computed(() => (facts.value?.ok ? facts.value.types : [draft.value.type]).map((type) => ({ value: type, title: type })))

const typeChosen = ref(false)
watch(
  () => facts.value?.ok && facts.value.canonical,
  () => {
    if (!facts.value?.ok) return
    if (!typeChosen.value || !facts.value.types.includes(draft.value.type)) draft.value.type = facts.value.defaultType
  },
  { immediate: true },
)
const chooseType = (type: BenchPoint['type']) => {
  typeChosen.value = true
  draft.value.type = type
}
watch(kind, () => (draft.value.options = {}))
watch(
  () => draft.value.type,
  (type) => (draft.value.options = { ...protocol.value.optionsFor(type, draft.value.options) }),
)

const many = ref<number | null>(1)
const manyMessage = computed(() =>
  Number.isInteger(many.value) && many.value! >= 1 && many.value! <= mostKept ? '' : `1 to ${mostKept}, one width apart.`,
)
const hasNext = computed(() => facts.value?.ok === true && nextOf(draft.value) !== null)
const nextOf = ({ address, type, options }: BenchPoint) => protocol.value.next({ address, type, options, access: 'read' })

/** The point and those after it, each one width further. */
const points = (): BenchPoint[] => {
  const all = [{ ...toRaw(draft.value), address: facts.value?.ok ? facts.value.canonical : draft.value.address }]
  while (hasNext.value && all.length < (many.value ?? 1)) {
    const address = nextOf(all.at(-1)!)
    if (address === null) break
    all.push({ ...all[0]!, address })
  }
  return all.map((point) => structuredClone({ ...point, options: toRaw(point.options) }))
}
const ready = computed(() => form.isValid.value && manyMessage.value === '' && !props.busy)
const go = (how: 'read' | 'keep') => {
  form.triedToSave.value = true
  if (!ready.value) return
  if (how === 'read') emit('read', points())
  else emit('keep', points())
}
const looksUp = ref(false)
const told = computed(() => {
  if (!facts.value?.ok || form.problems.value.size > 0) return ''
  const all = points()
  return all.length === 1 ? '' : `${counted(all.length, 'point')}, ${all[0]!.address} to ${all.at(-1)!.address}`
})
</script>

<template>
  <form class="sheet form" aria-label="A point to try" @submit.prevent="go('read')">
    <ChoiceField v-model="draft.linkId" label="Link" :choices="linkChoices" :message="messageFor('linkId')" />
    <div class="address" @keydown.f1.prevent="looksUp = true">
      <TextField
        v-model="draft.address"
        label="Address"
        mono
        autofocus
        :placeholder="linkForms[kind].addressExample"
        :message="messageFor('address') || (facts && !facts.ok && draft.address !== '' ? facts.problem : '')"
        @left="draft.address !== '' && touch('address')"
      />
    </div>
    <ChoiceField
      :model-value="draft.type"
      label="Type"
      mono
      :choices="types"
      :message="messageFor('type')"
      @update:model-value="chooseType"
    />
    <div class="options">
      <component
        :is="linkForms[kind].pointForm"
        v-if="link"
        v-model="draft.options"
        :type="draft.type"
        :settings="link.settings"
        :address="draft.address"
        :message-for="messageFor"
        @left="touch"
      />
    </div>
    <NumberField v-if="hasNext" v-model="many" label="How many in a row" :message="manyMessage" />
    <NumberField
      :model-value="draft.interval"
      label="Every"
      unit="ms"
      :message="messageFor('interval')"
      @update:model-value="draft.interval = $event ?? NaN"
      @left="touch('interval')"
    />
    <p class="facts quiet">
      <template v-if="facts?.ok">
        <span v-for="notation in facts.notations" :key="notation.label"
          >{{ notation.label }} <b class="mono">{{ notation.text }}</b></span
        >
        <span v-if="facts.note" class="is-late">{{ facts.note }}</span>
        <span v-if="told">{{ told }}</span>
      </template>
      <button v-if="link" type="button" class="look" @click="looksUp = true">
        Addresses, types and errors of {{ protocol.title }} <kbd>F1</kbd>
      </button>
    </p>
    <div class="buttons">
      <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!ready">Read once</BusyButton>
      <v-btn :disabled="!ready" @click="go('keep')">Keep reading</v-btn>
    </div>
    <ReferenceDialog
      v-if="link && looksUp"
      v-model="looksUp"
      :reference="protocol.reference(link.settings)"
      :title="`${protocol.title}, as “${link.name}” has it`"
    />
  </form>
</template>

<style scoped>
.form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  padding: 12px 14px;
  margin-bottom: 12px;
}
.form > * {
  flex: 1 1 120px;
  max-width: 220px;
}
.form > .address {
  flex: 3 1 220px;
  max-width: 460px;
}
.form > .options {
  display: flex;
  gap: 12px;
  flex: 2 1 130px;
}
.options:empty {
  display: none;
}
.form > .buttons {
  display: flex;
  gap: 8px;
  flex: none;
  max-width: none;
  align-self: flex-end;
}
.form > .facts {
  flex: 1 1 300px;
  max-width: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  margin: 0;
  font-size: 12px;
}
.look {
  color: var(--primary);
}
kbd {
  font: 11px var(--mono);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 0 4px;
}
</style>
