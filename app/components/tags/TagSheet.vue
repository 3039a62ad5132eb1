<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { linkKinds, protocolOf } from '#core/links/registry'
import { dataTypes, isNumeric, type DataType } from '#core/tags/types'
import { unitNames } from '#core/tags/units'
import { duration } from '#core/text/duration'
import type { ReadingRow, ValueOrigin } from '#shared/status'
import { tagDraft, tagProblems, type Tag, type TagDraft } from '#shared/tags'
import { linkForms } from '~/links/registry'

/** One sheet per tag: what it is left, what the device holds at that address right, as it is typed. */
const props = defineProps<{ initial: TagDraft; tag: Tag | null }>()
const emit = defineEmits<{ saved: [tag: Tag, next: TagDraft | null] }>()

const lists = useLists()
const live = useLive()
const linkOf = (id: number) => lists.links.find((link) => link.id === id) ?? null
const form = useDraft<TagDraft>(props.initial, tagDraft, (draft) => {
  const link = linkOf(draft.linkId)
  return link ? tagProblems(draft, link) : []
})
const { draft } = form
const link = computed(() => linkOf(draft.value.linkId))
const protocolKind = computed(() => link.value?.kind ?? linkKinds[0])
const protocol = computed(() => protocolOf(protocolKind.value))
const facts = computed(() => (link.value ? protocol.value.describe(draft.value.address, link.value.settings) : null))
const types = computed(() =>
  (facts.value?.ok ? facts.value.types : dataTypes).map((type) => ({
    value: type as DataType,
    title: type,
    ...(facts.value?.ok && facts.value.defaultType === type ? { subtitle: 'what this address is by default' } : {}),
  })),
)
const linkChoices = computed(() => lists.links.map(({ id, name }) => ({ value: id, title: name })))
const accesses = computed(() => [
  { value: 'read' as const, title: 'read' },
  ...(facts.value?.ok && !facts.value.writable ? [] : [{ value: 'readwrite' as const, title: 'read and write' }]),
])
const units = Object.keys(unitNames)
const unitField = useId()

const touchedType = ref(props.tag !== null || props.initial.address !== '')
watch(facts, (now, before) => {
  if (!now?.ok || (before?.ok && before.canonical === now.canonical)) return
  if (!touchedType.value || !now.types.includes(draft.value.type)) draft.value.type = now.defaultType
  if (!now.writable) draft.value.access = 'read'
})
watch(
  () => draft.value.type,
  (type) => {
    draft.value.options = protocol.value.optionsFor(type, draft.value.options)
    if (isNumeric(type)) return
    draft.value.scaling = null
    draft.value.range = null
  },
)

const gain = computed({ get: () => draft.value.scaling?.gain ?? 1, set: (value) => setScaling(value, draft.value.scaling?.offset ?? 0) })
const offset = computed({ get: () => draft.value.scaling?.offset ?? 0, set: (value) => setScaling(draft.value.scaling?.gain ?? 1, value) })
const setScaling = (newGain: number | null, newOffset: number | null) => {
  draft.value.scaling = newGain === 1 && newOffset === 0 ? null : { gain: newGain ?? NaN, offset: newOffset ?? NaN }
}
/** Two fields that make sense together only; both empty: no range. */
const low = computed({ get: () => draft.value.range?.low ?? null, set: (value) => setRange(value, draft.value.range?.high ?? null) })
const high = computed({ get: () => draft.value.range?.high ?? null, set: (value) => setRange(draft.value.range?.low ?? null, value) })
const setRange = (newLow: number | null, newHigh: number | null) => {
  const isEmpty = [newLow, newHigh].every((end) => end === null || Number.isNaN(end))
  draft.value.range = isEmpty ? null : { low: newLow ?? NaN, high: newHigh ?? NaN }
}
const intervalHint = computed(() => {
  const link_ = link.value
  const unit = live.status?.links.find(({ id }) => id === link_?.id)?.units.find(({ unit }) => facts.value?.ok && unit === facts.value.unit)
  const round = unit?.rounds.reduce((longest, one) => Math.max(longest, one.measuredMs ?? 0), 0)
  const asTheLink = link_ ? protocol.value.interval(link_.settings) : 1000
  const wanted = draft.value.interval ?? asTheLink
  if (round && round > wanted)
    return `Unit ${unit!.unit} needs about ${duration(round)} for a round now; ${duration(wanted)} is more than it can hold.`
  return `empty: ${duration(asTheLink)}, as the link has it`
})

const found = shallowRef<ValueOrigin | null>(null)
const reading = ref(false)
const readProblem = ref<Refused | null>(null)
let readTurn = 0
const canRead = computed(
  () =>
    facts.value?.ok === true &&
    ![...form.problems.value.keys()].some((path) => path === 'address' || path === 'type' || path.startsWith('options')),
)
const readNow = async () => {
  if (!canRead.value) return
  const turn = ++readTurn
  reading.value = true
  const { path: _, ...point } = draft.value
  try {
    const origin = await callApi<ValueOrigin>('/tags/try', {
      method: 'POST',
      body: { tag: { ...point, access: 'read', interval: null, scaling: null } },
    })
    if (turn === readTurn) {
      found.value = origin
      readProblem.value = null
      if (origin.told) takeTold(origin.told)
    }
  } catch (error) {
    if (turn === readTurn) readProblem.value = asRefused(error)
  } finally {
    if (turn === readTurn) reading.value = false
  }
}
/** What the far side says of the point fills what nobody typed yet; an index of a namespace becomes its URI. */
const takeTold = ({ address, type, writable, unit, description }: NonNullable<ValueOrigin['told']>) => {
  if (draft.value.address !== address) draft.value.address = address
  if (!touchedType.value) draft.value.type = type
  if (!writable) draft.value.access = 'read'
  if (props.tag) return
  draft.value.unit ||= unit
  draft.value.description ||= description
}
const readSoon = useDebounceFn(readNow, 500)
watch(
  () => JSON.stringify([draft.value.linkId, facts.value?.ok && facts.value.canonical, draft.value.type, draft.value.options]),
  () => {
    found.value = canRead.value ? found.value : null
    void readSoon()
  },
  { immediate: true },
)

const useReading = (row: ReadingRow) => {
  touchedType.value = true
  draft.value.type = row.type
  draft.value.options = protocol.value.leanOptions({ ...draft.value.options, ...row.options }, link.value?.settings)
}

const nextDraft = (saved: Tag): TagDraft => {
  const { id: _id, revision: _revision, ...rest } = saved
  return { ...rest, path: nextPath(saved.path), address: protocol.value.next(saved) ?? '' }
}
const nextPath = (path: string) => path.replace(/(\d+)(?!.*\d)/, (digits) => String(Number(digits) + 1).padStart(digits.length, '0'))

/** The far side's numbers may mean other points later; that something lasting took their place is told. */
const keptAddress = (saved: Tag) => {
  const wasPassing = protocol.value.isPassing(sentAddress)
  if (!wasPassing) return ''
  return protocol.value.isPassing(saved.address)
    ? ' The URI takes the place of the namespace’s number as soon as the link is connected.'
    : ` It is kept as ${saved.address}, since the server may number its namespaces anew.`
}

let goesOn = false
let sentAddress = ''
const saving = useSaving<TagDraft, Tag>({
  form,
  opened: props.tag,
  send: async (tag, revision) => {
    sentAddress = tag.address
    if (props.tag) return callApi<Tag>(`/tags/${props.tag.id}`, { method: 'PUT', body: { revision, tag } })
    return (await callApi<Tag[]>('/tags', { method: 'POST', body: { tags: [tag] } }))[0]!
  },
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: (saved) => `Tag ${saved.path} saved.${keptAddress(saved)}`,
  after: (saved) => {
    const next = goesOn ? nextDraft(saved) : null
    if (next) form.reset(next)
    emit('saved', saved, next)
  },
})
const { busy, refused, theirs, question } = saving
const save = (andNext: boolean) => {
  goesOn = andNext
  return saving.save()
}
const onKey = (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key !== 's') return
  event.preventDefault()
  void save(false)
}
</script>

<template>
  <form class="sheet-columns" novalidate @submit.prevent="save(false)" @keydown="onKey">
    <section class="sheet settings">
      <div class="grid">
        <TextField
          v-model="draft.path"
          class="wide"
          label="Path"
          mono
          placeholder="berth/1/shore/active_power"
          :message="form.messageFor('path')"
          :autofocus="!tag"
          @left="form.touch('path')"
        />
        <ChoiceField v-model="draft.linkId" label="Link" :choices="linkChoices" :message="form.messageFor('linkId')" />
        <div class="wide">
          <TextField
            v-model="draft.address"
            label="Address"
            mono
            :placeholder="linkForms[protocolKind].addressExample"
            :message="form.messageFor('address')"
            @left="form.touch('address')"
          />
          <AddressFacts v-if="facts" :facts="facts" />
        </div>
        <div class="stack">
          <ChoiceField
            v-model="draft.type"
            label="Type"
            :choices="types"
            mono
            :message="form.messageFor('type')"
            @update:model-value="touchedType = true"
          />
          <component
            :is="linkForms[protocolKind].pointForm"
            v-if="link"
            v-model="draft.options"
            :type="draft.type"
            :settings="link.settings"
            :message-for="form.messageFor"
            @left="form.touch"
          />
        </div>
      </div>
      <h2 class="sheet-title part">Value</h2>
      <div class="grid four">
        <template v-if="isNumeric(draft.type)">
          <NumberField v-model="gain" label="Gain" :message="form.messageFor('scaling.gain')" @left="form.touch('scaling.gain')" />
          <NumberField v-model="offset" label="Offset" :message="form.messageFor('scaling.offset')" @left="form.touch('scaling.offset')" />
          <div>
            <label class="label" :for="unitField">Engineering unit</label>
            <v-combobox
              :id="unitField"
              :model-value="draft.unit"
              :items="units"
              :error-messages="form.messageFor('unit')"
              @update:model-value="draft.unit = $event ?? ''"
            />
          </div>
        </template>
        <ChoiceField v-model="draft.access" label="Access" :choices="accesses" :message="form.messageFor('access')" />
        <template v-if="isNumeric(draft.type)">
          <NumberField v-model="low" label="Range from" :message="form.messageFor('range.low')" @left="form.touch('range.low')" />
          <NumberField v-model="high" label="Range to" :message="form.messageFor('range.high')" @left="form.touch('range.high')" />
        </template>
        <NumberField
          v-model="draft.interval"
          class="wide"
          :label="protocol.capabilities.watch ? 'Notified every' : 'Read every'"
          unit="ms"
          :message="form.messageFor('interval')"
          :hint="intervalHint"
          @left="form.touch('interval')"
        />
        <TextField v-model="draft.description" class="all" label="Description" :message="form.messageFor('description')" />
      </div>
      <SheetFoot
        :title="tag ? 'Save changes' : 'Save tag'"
        :busy="busy"
        :is-new="tag === null"
        :is-dirty="form.isDirty.value"
        :problems="form.triedToSave.value ? form.problems.value.size : 0"
        @back="saving.take(tag!)"
      >
        <v-btn v-if="!tag" :loading="busy" @click="save(true)">Save, then the next address</v-btn>
      </SheetFoot>
    </section>
    <div class="beside">
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="saving.take" @overwrite="saving.saveOverTheirs" />
      <section class="sheet there" aria-live="polite">
        <div class="head">
          <h2 class="sheet-title">What is there now</h2>
          <span class="fill" />
          <v-btn height="26" :loading="reading" :disabled="!canRead" @click="readNow">Read again</v-btn>
        </div>
        <p v-if="!canRead && !found" class="quiet">
          Type an address: it is read once, and every reading of its words shown, before a tag is made.
        </p>
        <template v-else-if="found && !found.fault">
          <ValueStages :stages="found.stages" />
          <ReadingsTable :readings="found.readings" :from="found.wordsFrom" can-choose @choose="useReading" />
        </template>
        <p v-else-if="reading" class="quiet">Reading…</p>
      </section>
      <FaultNote v-if="found?.fault" :fault="found.fault" class="below" />
      <FaultNote v-if="readProblem && canRead" :fault="readProblem.why" class="below" />
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.settings,
.there {
  padding: 16px 18px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 14px 12px;
  align-items: start;
}
.grid.four {
  grid-template-columns: repeat(4, minmax(0, 1fr));
}
.wide {
  grid-column: span 2;
}
.all {
  grid-column: 1 / -1;
}
.stack {
  display: grid;
  gap: 12px;
}
.part {
  margin: 18px 0 10px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
.head {
  display: flex;
  align-items: center;
}
.fill {
  flex: 1;
}
.there p {
  margin: 8px 0 0;
}
.gap {
  margin-bottom: 12px;
}
.below {
  margin-top: 12px;
}
</style>
