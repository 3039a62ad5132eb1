<script setup lang="ts">
import { refDebounced, useIntervalFn } from '@vueuse/core'
import { severities, type JournalSeverity } from '#core/journal/entry'
import { momentText } from '#core/text/moment'
import { journalCsv, journalLines, journalPicture, journalText, listJournal } from '#shared/api/journal'
import { addressOf, type AnswerOf } from '#shared/api/operation'

/** What happened: how often over time, each event, and how all that is kept. */
const route = useRoute()
const grave = [
  { value: null, title: 'everything' },
  { value: 'note' as const, title: 'notes' },
  { value: 'caution' as const, title: 'cautions' },
  { value: 'trouble' as const, title: 'troubles' },
]
const spans = [
  { value: 3_600_000, title: 'the last hour' },
  { value: 86_400_000, title: 'the last day' },
  { value: 7 * 86_400_000, title: 'the last week' },
  { value: null, title: 'all that is kept' },
]
const asked = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : null)
const severity = ref<JournalSeverity | null>(severities.find((one) => one === asked('severity')) ?? null)
const find = ref(asked('find') ?? '')
const settledFind = refDebounced(find, 250)
const source = ref(asked('source'))
/** How far back, ms; null: as far as there is something. */
const back = ref<number | null>(86_400_000)
/** A stretch of time that somebody pressed in the picture. */
const narrowed = ref<[from: number, to: number] | null>(null)

const words = computed(() => ({ severity: severity.value, find: settledFind.value, source: source.value }))
const within = computed(() => (narrowed.value ? { from: narrowed.value[0], to: narrowed.value[1] } : {}))
const { entries, more, refused, older } = useLog(listJournal, () => ({ ...words.value, ...within.value }))

const picture = shallowRef<AnswerOf<typeof journalPicture> | null>(null)
const look = async () => {
  const from = back.value === null ? null : Date.now() - back.value
  const query = { ...words.value, from }
  picture.value = await callApi(journalPicture, { query }).catch(() => picture.value)
}
watch([words, back], look, { immediate: true })
useIntervalFn(look, 10_000)

const clear = () => {
  ;[find.value, severity.value, source.value, narrowed.value] = ['', null, null, null]
}
const columns = [
  { title: 'How often', class: 'times' },
  { title: 'How grave', class: 'grave' },
  { title: 'Where', class: 'source' },
  { title: 'What happened' },
]
const severityClass = { note: 'quiet', caution: 'is-late', trouble: 'is-broken' } as const
const files = [
  { title: 'Text', operation: journalText, name: 'journal.txt' },
  { title: 'CSV', operation: journalCsv, name: 'journal.csv' },
  { title: 'JSON Lines', operation: journalLines, name: 'journal.jsonl' },
]
const hrefOf = (operation: (typeof files)[number]['operation']) =>
  `/api${addressOf(operation, { query: { ...words.value, ...within.value } })}`
const isFiltered = computed(() => Boolean(settledFind.value || severity.value || source.value || narrowed.value))
const nothing = computed(() => (isFiltered.value ? 'Nothing that fits this filter.' : 'Nothing happened yet.'))
</script>

<template>
  <div class="page">
    <JournalHead>
      <v-text-field v-model="find" data-filter class="filter" placeholder="Filter by words" aria-label="Filter by words" clearable />
      <v-select v-model="severity" class="severity" :items="grave" aria-label="How grave" />
      <v-select v-model="back" class="span" :items="spans" aria-label="How far back the picture goes" />
      <span class="fill" />
      <v-menu>
        <template #activator="{ props: menu }"><v-btn v-bind="menu">Save as…</v-btn></template>
        <v-list>
          <v-list-item v-for="file in files" :key="file.title" :href="hrefOf(file.operation)" :download="file.name" :title="file.title" />
        </v-list>
      </v-menu>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <JournalPicture v-if="picture" v-bind="picture" @narrow="(from, to) => (narrowed = [from, to])" />
    <JournalKept />
    <p v-if="isFiltered" class="chips">
      <v-btn v-if="narrowed" size="small" @click="narrowed = null">
        {{ momentText(narrowed[0]) }} to {{ momentText(narrowed[1]) }} <span aria-hidden="true">×</span
        ><span class="unseen">: no longer only then</span>
      </v-btn>
      <v-btn v-if="source" size="small" @click="source = null">
        Only {{ source }} <span aria-hidden="true">×</span><span class="unseen">: no longer only there</span>
      </v-btn>
      <v-btn size="small" variant="text" @click="clear">No filter</v-btn>
    </p>
    <LogTable v-slot="{ entry }" :entries :columns :more older-title="Older entries" :nothing @older="older">
      <td class="number mono">
        <span v-if="entry.times > 1" :title="`until ${momentText(entry.lastAt)}`">{{ entry.times.toLocaleString('en-GB') }} ×</span>
      </td>
      <td :class="severityClass[entry.severity]">{{ entry.severity }}</td>
      <td class="wrap">
        <button type="button" class="plain" :title="`Only what ${entry.source} told`" @click.stop="source = entry.source">
          {{ entry.source }}
        </button>
      </td>
      <td class="wrap">{{ entry.text }}</td>
    </LogTable>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.severity {
  max-width: 140px;
}
.span {
  max-width: 160px;
}
.chips {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 0 0 10px;
}
.wrap {
  overflow-wrap: anywhere;
}
.plain {
  text-align: left;
}
.plain:hover,
.plain:focus-visible {
  text-decoration: underline;
}
:deep(th.times) {
  width: 84px;
  text-align: right;
}
:deep(th.grave) {
  width: 90px;
}
:deep(th.source) {
  width: 220px;
}
</style>
