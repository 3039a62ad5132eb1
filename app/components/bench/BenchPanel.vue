<script setup lang="ts">
import { mdiClose } from '@mdi/js'
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
  <aside class="panel" aria-label="The chosen point">
    <button type="button" class="close" aria-label="Close" title="Close (Esc)" @click="$emit('close')">
      <v-icon :icon="mdiClose" size="18" />
    </button>
    <div class="head">
      <div class="names">
        <span class="quiet cut" :title="link?.name">{{ link?.name ?? 'a link that is gone' }}</span>
        <h2 class="mono cut" :title="entry.address">{{ entry.address }}</h2>
      </div>
      <strong class="mono value cut" :title="text">{{ text }}</strong>
    </div>
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
  </aside>
</template>

<style scoped>
.panel {
  position: relative;
  padding: 14px 18px 24px;
  background: var(--surface);
  border-left: 1px solid var(--line);
  overflow: auto;
}
.panel .close {
  position: absolute;
  top: 10px;
  right: 12px;
  color: var(--quiet);
}
.head {
  padding-top: 6px;
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
  gap: 12px;
}
.names {
  min-width: 0;
}
.cut {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h2 {
  font-size: 16px;
  font-weight: 600;
  margin: 0;
}
.value {
  font-size: 18px;
  font-weight: 600;
  max-width: 60%;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 10px 0 14px;
}
.gap {
  margin-bottom: 14px;
}
</style>
