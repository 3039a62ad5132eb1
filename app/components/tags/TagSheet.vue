<script setup lang="ts">
import { changeTag, makeTags } from '#shared/api/tags'
import { isNumeric } from '#core/tags/types'
import { canBeOdd } from '#core/tags/odd'
import { relatives, unitNames } from '#core/tags/units'
import { limitsLine } from '#core/alarms/words'
import { canBeNamed } from '#core/tags/valueNames'
import { rulesOf, sourceKinds, tagProblems, type SourceKind, type TagSource } from '#shared/sources/registry'
import { tagDraft, type Tag, type TagDraft } from '#shared/tags'
import { linkIn } from '~/sources/face'
import { faceOf } from '~/sources/registry'

/** One sheet per tag: what it is left; right, what its source holds now. */
const props = defineProps<{ initial: TagDraft; tag: Tag | null }>()
const emit = defineEmits<{ saved: [tag: Tag, next: TagDraft | null] }>()

const lists = useLists()
const form = useDraft<TagDraft>(props.initial, tagDraft, (draft) => tagProblems(draft, (id) => linkIn(lists.links, id)))
const { draft } = form
const face = computed(() => faceOf(draft.value.source.kind))
const rules = computed(() => rulesOf(draft.value.source.kind))
const oddKinds = computed(() => canBeOdd(draft.value.type))
const isScalable = computed(() => isNumeric(draft.value.type) && rules.value.isScaled)
const limits = computed(() => face.value.limits(draft.value, lists.links))
const types = computed(() =>
  limits.value.types.map((type) => ({
    value: type,
    title: type,
    ...(limits.value.defaultType === type ? { subtitle: 'what this address is by default' } : {}),
  })),
)
const accesses = computed(() => [
  { value: 'read' as const, title: 'read' },
  ...(limits.value.writable ? [{ value: 'readwrite' as const, title: 'read and write' }] : []),
])
const units = Object.keys(unitNames)
const rawUnits = computed(() => {
  const own = draft.value.rawUnit
  const others = relatives(draft.value.unit)
  return [
    { value: '', title: draft.value.unit },
    ...(own !== '' && !others.includes(own) ? [own, ...others] : others).map((value) => ({
      value,
      title: value,
      subtitle: `converted to ${draft.value.unit}`,
    })),
  ]
})
const linkOdd = computed(() => {
  const { source } = draft.value
  return (source.kind === 'point' && lists.links.find(({ id }) => id === source.linkId)?.odd) || null
})
const unitField = useId()

/** Tags that something else makes stay its own. */
const isMade = props.tag !== null && rulesOf(props.tag.source.kind).isMade === true
const kinds = sourceKinds
  .filter((kind) => (rulesOf(kind).isMade === true) === isMade && (!isMade || kind === props.tag?.source.kind))
  .map((value) => ({ value, title: rulesOf(value).title, subtitle: rulesOf(value).subtitle }))
/** What was typed for other sources, in case somebody comes back to them. */
const others = new Map<SourceKind, TagSource>()
const chooseSource = (kind: SourceKind) => {
  const { source } = draft.value
  others.set(source.kind, source)
  draft.value.source = others.get(kind) ?? faceOf(kind).blank(lists.pointLinks[0]?.id ?? 0)
  if (!rulesOf(kind).isScaled) Object.assign(draft.value, { scaling: null, odd: null, rawUnit: '' })
  if (!rulesOf(kind).isDamped) draft.value.reports = null
  if (props.tag === null) draft.value.access = faceOf(kind).access
}

const typeChosen = ref(props.tag !== null || face.value.limits(props.initial, lists.links).defaultType !== null)
watch(
  () => limits.value.key,
  (key) => {
    const { types: possible, defaultType, writable } = limits.value
    if (key === '' || defaultType === null) return
    if (!typeChosen.value || !possible.includes(draft.value.type)) draft.value.type = defaultType
    if (!writable) draft.value.access = 'read'
  },
)
watch(
  () => draft.value.type,
  (type) => {
    if (!canBeNamed(type)) draft.value.names = []
    if (!isNumeric(type)) draft.value.limits = draft.value.limits.filter(({ kind }) => kind === 'state')
    if (isNumeric(type)) return
    Object.assign(draft.value, { scaling: null, range: null, rawUnit: '' })
    if (draft.value.reports?.deadband) draft.value.reports = { ...draft.value.reports, deadband: null }
    if (canBeOdd(type) === null) draft.value.odd = null
  },
)

/** Two fields that make sense together only; both empty: no range. */
const low = computed({ get: () => draft.value.range?.low ?? null, set: (value) => setRange(value, draft.value.range?.high ?? null) })
const high = computed({ get: () => draft.value.range?.high ?? null, set: (value) => setRange(draft.value.range?.low ?? null, value) })
const setRange = (newLow: number | null, newHigh: number | null) => {
  const isEmpty = [newLow, newHigh].every((end) => end === null || Number.isNaN(end))
  draft.value.range = isEmpty ? null : { low: newLow ?? NaN, high: newHigh ?? NaN }
}
const nextDraft = (saved: Tag): TagDraft => {
  const { id: _id, revision: _revision, ...rest } = saved
  return { ...rest, path: nextPath(saved.path), source: face.value.next(saved, lists.links) }
}
const nextPath = (path: string) => path.replace(/(\d+)(?!.*\d)/, (digits) => String(Number(digits) + 1).padStart(digits.length, '0'))

let goesOn = false
let sent: TagSource | null = null
const saving = useSaving<TagDraft, Tag>({
  form,
  opened: props.tag,
  send: async (tag, revision) => {
    sent = tag.source
    if (props.tag) return callApi(changeTag, { params: { id: props.tag.id }, body: { revision, tag } })
    return (await callApi(makeTags, { body: { tags: [tag] } }))[0]!
  },
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: (saved) => `Tag ${saved.path} saved.${(sent && face.value.kept?.(sent, saved.source, lists.links)) ?? ''}`,
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
const hasLimitProblem = computed(() => form.triedToSave.value && [...form.problems.value.keys()].some((path) => path.startsWith('limits')))
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
        <ChoiceField
          :model-value="draft.source.kind"
          label="Values from"
          :choices="kinds"
          :message="form.messageFor('source.kind')"
          @update:model-value="chooseSource"
        />
        <component :is="face.fields" v-model="draft" :message-for="form.messageFor" @left="form.touch">
          <template #type>
            <ChoiceField
              v-model="draft.type"
              label="Type"
              :choices="types"
              mono
              :message="form.messageFor('type')"
              @update:model-value="typeChosen = true"
            />
          </template>
        </component>
      </div>
      <h2 class="sheet-title part">Value</h2>
      <div class="grid four">
        <template v-if="isNumeric(draft.type)">
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
        <NamesField
          v-if="canBeNamed(draft.type)"
          v-model="draft.names"
          class="all"
          :is-truth="draft.type === 'bool'"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <ScalingFields
          v-if="isScalable"
          v-model="draft.scaling"
          class="all"
          :tag="tag"
          :unit="draft.unit"
          :message-for="form.messageFor"
          @left="form.touch"
        >
          <ChoiceField
            v-if="rawUnits.length > 1"
            v-model="draft.rawUnit"
            label="Gives values in"
            :choices="rawUnits"
            :message="form.messageFor('rawUnit')"
          />
        </ScalingFields>
        <component :is="face.timing" v-if="face.timing" v-model="draft" class="wide" :message-for="form.messageFor" @left="form.touch" />
        <TextField v-model="draft.description" class="all" label="Description" :message="form.messageFor('description')" />
      </div>
      <div class="folds">
        <SettingsFold
          title="Limits"
          :summary="limitsLine(draft.limits).replaceAll('NaN', '…') || 'none: no value is an alarm'"
          :has-problem="hasLimitProblem"
        >
          <p v-if="draft.source.kind === 'property'" class="quiet all">Its class decides about its limits.</p>
          <LimitFields
            v-else
            v-model="draft.limits"
            :type="draft.type"
            :unit="draft.unit"
            :names="draft.names"
            :message="(field) => form.messageFor(field === '' ? 'limits' : `limits.${field}`)"
            @left="form.touch(`limits.${$event}`)"
          />
        </SettingsFold>
        <ReportFields
          v-if="rules.isDamped"
          v-model="draft.reports"
          :unit="draft.unit"
          :is-numeric="isNumeric(draft.type)"
          :message-for="form.messageFor"
          @left="form.touch"
        />
        <OddFields
          v-if="rules.isScaled && oddKinds"
          v-model="draft.odd"
          :kinds="oddKinds"
          :link="linkOdd"
          :message-for="form.messageFor"
          @left="form.touch"
        />
      </div>
      <SheetFoot
        :title="tag ? 'Save changes' : 'Save tag'"
        :busy="busy"
        :is-new="tag === null"
        :is-dirty="form.isDirty.value"
        :problems="form.triedToSave.value ? form.problems.value.size : 0"
        @back="saving.take(tag!)"
      >
        <BusyButton v-if="!tag" :busy="busy" @click="save(true)">Save, then the next</BusyButton>
      </SheetFoot>
    </section>
    <div class="beside">
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="saving.take" @overwrite="saving.saveOverTheirs" />
      <NotesPreview :id="tag?.id ?? null" :draft="draft" />
      <component
        :is="face.beside"
        v-if="face.beside"
        v-model="draft"
        :problems="form.problems.value"
        :is-new="tag === null"
        :tag-id="tag?.id ?? null"
        :type-chosen="typeChosen"
        @chose="typeChosen = true"
      />
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.settings {
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
.part {
  margin: 18px 0 10px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
.folds {
  margin-top: 14px;
}
.gap {
  margin-bottom: 12px;
}
</style>
