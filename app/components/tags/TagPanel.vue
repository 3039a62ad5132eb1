<script setup lang="ts">
import { passedOnBy } from '#core/tags/scaling'
import { folderOf, nameOf } from '#core/tags/path'
import { qualityText, severityOf } from '#core/tags/quality'
import { behindValue } from '#core/tags/valueNames'
import { valueText } from '#core/text/number'
import { writeValue } from '#shared/api/tags'
import type { TagNote } from '#shared/notes'
import type { Tag } from '#shared/tags'
import { rulesOf } from '#shared/sources/registry'
import { linkForms } from '~/links/registry'
import { factsOf, faceOf } from '~/sources/registry'

/** One tag: its value, how it is made, other readings of its words, where it goes, and writing it. */
const props = defineProps<{ tag: Tag; notes: readonly TagNote[] | undefined }>()
defineEmits<{ close: []; remove: [] }>()
const live = useLive()
const lists = useLists()
const watching = useWatching()
const { copied, copy } = useCopy()

watch(
  () => props.tag.id,
  (id) => live.showOrigin(id),
  { immediate: true },
)
onUnmounted(() => live.showOrigin(null))

const value = computed(() => live.values.get(props.tag.id))
const origin = computed(() => (live.origin?.tag === props.tag.id ? live.origin.origin : null))
/** Only where addresses have an order is there a next one. */
const hasNext = computed(() => faceOf(props.tag.source.kind).hasNext(props.tag, lists.links))
const through = computed(() => factsOf(props.tag, lists.links).through)
/** What its protocol knows besides the value. */
const beside = computed(() => {
  const { source } = props.tag
  const link = source.kind === 'point' ? lists.links.find(({ id }) => id === source.linkId) : undefined
  return link && linkForms[link.kind].besideValue
})
const type = computed(() => passedOnBy(props.tag))
/** The link ends a write before this; a page that gave up earlier would tell a failure that may not be one. */
const longestWriteMs = 160_000
const write = async (to: boolean | number | string) =>
  (await callApi(writeValue, { params: { id: props.tag.id }, body: { value: to } }, { timeoutMs: longestWriteMs })).readBack
</script>

<template>
  <SidePanel label="The chosen tag" :above="folderOf(tag.path)" :name="nameOf(tag.path)" :title="tag.path" @close="$emit('close')">
    <template #value
      ><strong>{{ valueText(value?.value, type) }}</strong> <span class="quiet">{{ behindValue(value?.value, tag) }}</span></template
    >
    <p v-if="value && severityOf(value.quality) !== 'good'" class="is-broken quality">{{ qualityText(value.quality) }}</p>
    <p v-if="tag.description" class="quiet">{{ tag.description }}</p>
    <div class="buttons">
      <Allowed role="configure">
        <v-btn height="26" :to="`/tags/${tag.id}`">Edit</v-btn>
        <v-btn v-if="hasNext" height="26" :to="`/tags/new?like=${tag.id}`">Make the next</v-btn>
        <v-btn v-if="!rulesOf(tag.source.kind).isMade" height="26" :to="`/tags/series?like=${tag.id}`">Make a series</v-btn>
      </Allowed>
      <v-btn v-if="tag.access === 'readwrite'" height="26" :to="`/journal/writes?tag=${tag.id}`">Who wrote</v-btn>
      <v-btn height="26" :to="`/tags/${tag.id}/path`">Path check</v-btn>
      <v-btn height="26" title="w" @click="watching.watchTags([tag.id])">Watch</v-btn>
      <v-btn height="26" :to="`/trends?tags=${tag.id}`">Trend</v-btn>
      <v-btn height="26" @click="copy(tag.path)">{{ copied ? 'Copied' : 'Copy path' }}</v-btn>
      <Allowed role="configure"><v-btn height="26" color="break" @click="$emit('remove')">Remove</v-btn></Allowed>
    </div>
    <Allowed role="operate"
      ><WriteField
        v-if="tag.access === 'readwrite'"
        :type="tag.type"
        :unit="tag.unit"
        :names="tag.names"
        :holder="faceOf(tag.source.kind).holder"
        :to="tag.id"
        :write="write"
    /></Allowed>
    <component :is="beside" v-if="beside" :tag="tag" />
    <slot />
    <NoteList v-if="notes?.length" :notes="notes" :tag-id="tag.id" />
    <h3 class="sheet-title">How this value is made</h3>
    <p v-if="through" class="quiet">
      through <NuxtLink :to="through.path">{{ through.title }}</NuxtLink>
    </p>
    <template v-if="origin">
      <ValueStages :stages="origin.stages" />
      <FaultNote v-if="origin.fault" :fault="origin.fault" mild class="gap" />
      <ReadingsTable :readings="origin.readings" :from="origin.wordsFrom" />
      <h3 class="sheet-title goes">Goes to</h3>
      <span v-for="consumer in origin.goesTo" :key="consumer" class="chip">{{ consumer }}</span>
      <span v-if="origin.goesTo.length === 0" class="quiet">Nobody; no outlet is open.</span>
    </template>
    <p v-else class="quiet">Its source is switched off, or the engine is not there.</p>
  </SidePanel>
</template>

<style scoped>
.goes {
  margin: 14px 0 6px;
}
</style>
