<script setup lang="ts">
import { tryTag } from '#shared/api/tags'
import { useDebounceFn } from '@vueuse/core'
import { protocolOf } from '#core/links/registry'
import { parseJson } from '#core/messages/json'
import { namesFor } from '#core/tags/valueNames'
import { timeSuggested, typeSuggested, type Part } from '#core/messages/parts'
import type { PointSource } from '#shared/sources/point'
import type { Drawn } from '#shared/sources/source'
import type { ReadingRow, ValueOrigin } from '#shared/values'
import { linkIn } from '~/sources/face'

/** What the device holds at an address right now, as it is typed. */
const draft = defineModel<Drawn<PointSource>>({ required: true })
const props = defineProps<{ problems: ReadonlyMap<string, string>; isNew: boolean; tagId: number | null; typeChosen: boolean }>()
const emit = defineEmits<{ chose: [] }>()

const lists = useLists()
const source = computed(() => draft.value.source)
const link = computed(() => linkIn(lists.links, source.value.linkId) ?? null)
const facts = computed(() => (link.value ? protocolOf(link.value.kind).describe(source.value.address, link.value.settings) : null))

const found = shallowRef<ValueOrigin | null>(null)
/** What came to the address before; it stays while the next is waited for. */
const outline = ref('')
const reading = ref(false)
const problem = ref<Refused | null>(null)
let turn = 0
const stands = ['source.address', 'type', 'source.options']
const canRead = computed(
  () => facts.value?.ok === true && ![...props.problems.keys()].some((path) => stands.some((field) => path.startsWith(field))),
)

const readNow = async () => {
  if (!canRead.value) return
  const mine = ++turn
  reading.value = true
  const { path: _, ...tag } = draft.value
  const body = { tag: { ...tag, access: 'read' as const, scaling: null, source: { ...tag.source, interval: null } } }
  try {
    const origin = await callApi(tryTag, { body })
    if (mine !== turn) return
    found.value = origin
    outline.value = origin.outline ?? outline.value
    problem.value = null
    if (origin.told) takeTold(origin.told)
  } catch (error) {
    if (mine === turn) problem.value = asRefused(error)
  } finally {
    if (mine === turn) reading.value = false
  }
}

/** What the far side says of the point fills what nobody typed yet; an index of a namespace becomes its URI. */
const takeTold = ({ address, type, writable, unit, names, description }: NonNullable<ValueOrigin['told']>) => {
  if (source.value.address !== address) draft.value.source = { ...source.value, address }
  if (!props.typeChosen) draft.value.type = type
  if (!writable) draft.value.access = 'read'
  if (!props.isNew) return
  draft.value.unit ||= unit
  if (draft.value.names.length === 0) draft.value.names = namesFor(draft.value.type, names)
  draft.value.description ||= description
}

watch([() => source.value.linkId, () => source.value.address], () => (outline.value = ''))
const inside = computed({
  get: () => (source.value.options as { path?: string }).path ?? '',
  set: (path) => (draft.value.source = { ...source.value, options: { ...source.value.options, path } as PointSource['options'] }),
})
/** A part that is pressed makes the type as well, where nobody chose one, and a new tag takes its time from beside it. */
const takePart = ({ value }: Part) => {
  const type = typeSuggested(value)
  if (type && !props.typeChosen) draft.value.type = type
  const time = timeSuggested(parseJson(outline.value))
  if (!props.isNew || time === '' || time === inside.value || 'time' in source.value.options) return
  draft.value.source = { ...source.value, options: { ...source.value.options, time } }
}
const showsOutline = computed(() => outline.value !== '' && !('bytes' in source.value.options))

const readSoon = useDebounceFn(readNow, 500)
watch(
  () => JSON.stringify([source.value.linkId, facts.value?.ok && facts.value.canonical, draft.value.type, source.value.options]),
  () => {
    found.value = canRead.value ? found.value : null
    void readSoon()
  },
  { immediate: true },
)

const choose = ({ takes }: ReadingRow) => {
  if (!takes) return
  const { type, options } = takes
  emit('chose')
  draft.value.type = type
  const chosen = { ...source.value.options, ...options }
  const lean = link.value ? protocolOf(link.value.kind).leanOptions(chosen, link.value.settings) : chosen
  draft.value.source = { ...source.value, options: lean }
}
</script>

<template>
  <section class="sheet there" aria-live="polite">
    <div class="head">
      <h2 class="sheet-title">What is there now</h2>
      <span class="fill" />
      <BusyButton height="26" :busy="reading" :disabled="!canRead" @click="readNow">Read again</BusyButton>
    </div>
    <p v-if="!canRead && !found" class="quiet">
      Type an address: it is read once, and every reading of its words shown, before a tag is made.
    </p>
    <template v-else-if="found && !found.fault">
      <ValueStages :stages="found.stages" />
      <ReadingsTable :readings="found.readings" :from="found.wordsFrom" can-choose @choose="choose" />
    </template>
    <p v-else-if="reading" class="quiet">Reading…</p>
    <template v-if="showsOutline">
      <p class="quiet">Press what the value is; its way is filled in.</p>
      <ExampleTree v-model="inside" :text="outline" label="What came last" @pressed="takePart" />
    </template>
  </section>
  <LoadPanel
    v-if="link && problems.size === 0"
    :key="link.id"
    :link-id="link.id"
    :tag="{ id: tagId, tag: draft }"
    brief
    title="What it does to the round"
  />
  <FaultNote v-if="found?.fault" :fault="found.fault" class="below" />
  <FaultNote v-if="problem && canRead" :fault="problem.why" class="below" />
</template>

<style scoped>
.there {
  padding: 16px 18px;
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
.below {
  margin-top: 12px;
}
</style>
