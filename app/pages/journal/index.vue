<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { listJournal, type JournalEntry } from '#shared/api/site'

const severities = [
  { value: null, title: 'everything' },
  { value: 'note', title: 'notes' },
  { value: 'caution', title: 'cautions' },
  { value: 'trouble', title: 'troubles' },
]
const severity = ref<JournalEntry['severity'] | null>(null)
const find = ref('')
const settledFind = refDebounced(find, 250)
const { entries, more, refused, older } = useLog(listJournal, () => ({ severity: severity.value, find: settledFind.value }))

const columns = [{ title: 'How grave', class: 'grave' }, { title: 'Where', class: 'source' }, { title: 'What happened' }]
const severityClass = { note: 'quiet', caution: 'is-late', trouble: 'is-broken' } as const

const save = () =>
  saveTextFile(
    'journal.txt',
    entries.value.map((entry) => [entry.at, entry.severity, entry.source, entry.text, entry.fault?.code ?? ''].join('\t')).join('\n'),
  )
</script>

<template>
  <div class="page">
    <JournalHead>
      <v-text-field v-model="find" data-filter class="filter" placeholder="Filter by words" aria-label="Filter by words" clearable />
      <v-select v-model="severity" class="severity" :items="severities" aria-label="Severity" />
      <span class="fill" />
      <span class="quiet">The newest 20,000 entries are kept, over restarts.</span>
      <v-btn :disabled="entries.length === 0" @click="save">Save as text</v-btn>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <LogTable v-slot="{ entry }" :entries :columns :more older-title="Older entries" nothing="Nothing here." @older="older">
      <td :class="severityClass[entry.severity]">{{ entry.severity }}</td>
      <td class="wrap">{{ entry.source }}</td>
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
.wrap {
  overflow-wrap: anywhere;
}
:deep(th.grave) {
  width: 90px;
}
:deep(th.source) {
  width: 180px;
}
</style>
