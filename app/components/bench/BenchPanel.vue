<script setup lang="ts">
import { protocolOf } from '#core/links/registry'
import { valueText } from '#core/text/number'
import type { BenchEntry } from '#shared/bench'
import type { ReadingRow } from '#shared/values'
import { linkIn } from '~/sources/face'

/** One point on the bench: how its value comes about, other readings of it, and writing to it. */
const props = defineProps<{ entry: BenchEntry }>()
defineEmits<{ close: []; remove: [] }>()
const bench = useBench()
const lists = useLists()
const { copied, copy } = useCopy()

const link = computed(() => linkIn(lists.links, props.entry.linkId) ?? null)
const facts = computed(() => (link.value ? protocolOf(link.value.kind).describe(props.entry.address, link.value.settings) : null))
const reading = computed(() => (bench.kept.has(props.entry.id) ? bench.readings.get(props.entry.id) : undefined))
const once = computed(() => bench.origins.get(props.entry.id))
const origin = computed(() => reading.value?.origin ?? once.value ?? null)
/** The reply to a single read has more words than a round needs. */
const readings = computed(() => {
  const [now, before] = [reading.value?.origin, once.value]
  return now && (now.readings.length > 0 || !before) ? now : before
})
const text = computed(() => {
  if (reading.value) return reading.value.value === null ? '—' : valueText(reading.value.value, props.entry.type)
  return props.entry.last?.ok ? props.entry.last.text : '—'
})

const choose = ({ takes }: ReadingRow) => {
  if (!takes) return
  const { type, options } = takes
  const { id, madeAt: _made, last: _last, ...point } = props.entry
  const chosen = { ...point.options, ...options }
  const lean = link.value ? protocolOf(link.value.kind).leanOptions(chosen, link.value.settings) : chosen
  void bench.change(id, { ...point, type, options: lean })
}
</script>

<template>
  <SidePanel label="The chosen point" :above="link?.name ?? 'a link that is gone'" :name="entry.address" mono @close="$emit('close')">
    <template #value
      ><strong :title="text">{{ text }}</strong></template
    >
    <div class="buttons">
      <BusyButton height="26" :busy="bench.busy.has(entry.id)" @click="bench.read([entry.id])">Read once</BusyButton>
      <v-btn v-if="bench.kept.has(entry.id)" height="26" @click="bench.rest([entry.id])">Stop reading</v-btn>
      <v-btn v-else height="26" @click="bench.keep([entry.id])">Keep reading</v-btn>
      <v-btn height="26" :to="`/tags/new?bench=${entry.id}`">Make it a tag</v-btn>
      <v-btn height="26" @click="copy(entry.address)">{{ copied ? 'Copied' : 'Copy address' }}</v-btn>
      <v-btn height="26" @click="$emit('remove')">Take it off</v-btn>
    </div>
    <WriteField
      v-if="facts?.ok && facts.writable"
      :type="entry.type"
      unit=""
      :names="[]"
      holder="The far side"
      :to="entry.id"
      :write="(value) => bench.write(entry.id, value)"
    />
    <p v-else-if="facts?.ok" class="quiet">Nothing can be written here.</p>
    <p v-if="entry.last?.ok === false && !reading && !origin?.fault" class="is-broken">{{ entry.last.text }}</p>
    <template v-if="origin">
      <template v-if="origin.stages.length > 0">
        <h3 class="sheet-title">How this value is made</h3>
        <ValueStages :stages="origin.stages" />
      </template>
      <FaultNote v-if="origin.fault" :fault="origin.fault" mild class="gap" />
    </template>
    <ReadingsTable v-if="readings" :readings="readings.readings" :from="readings.wordsFrom" can-choose @choose="choose" />
    <p v-if="!origin" class="quiet">Read it to see what comes, and every reading of it.</p>
  </SidePanel>
</template>
