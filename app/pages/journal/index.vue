<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { refDebounced } from '@vueuse/core'
import type { Fault } from '#core/faults/catalogue'

interface Entry {
  id: number
  at: string
  severity: 'note' | 'caution' | 'trouble'
  source: string
  text: string
  fault: Fault | null
}

const severities = [
  { value: null, title: 'everything' },
  { value: 'note', title: 'notes' },
  { value: 'caution', title: 'cautions' },
  { value: 'trouble', title: 'troubles' },
]
const severity = ref<Entry['severity'] | null>(null)
const find = ref('')
const settledFind = refDebounced(find, 250)
const opened = ref<number | null>(null)
const { entries, more, refused, older } = useLog<Entry>(() => ({
  path: '/journal',
  parts: { severity: severity.value, find: settledFind.value },
}))

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
    <section class="sheet">
      <table class="rows">
        <thead>
          <tr>
            <th>When</th>
            <th></th>
            <th>Where</th>
            <th>What happened</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="entry in entries" :key="entry.id">
            <tr :class="{ opens: entry.fault }" @click="opened = opened === entry.id ? null : entry.id">
              <td class="mono when">{{ momentText(entry.at) }}</td>
              <td
                :class="{
                  'is-late': entry.severity === 'caution',
                  'is-broken': entry.severity === 'trouble',
                  quiet: entry.severity === 'note',
                }"
              >
                {{ entry.severity }}
              </td>
              <td class="source">{{ entry.source }}</td>
              <td class="what">{{ entry.text }}</td>
            </tr>
            <tr v-if="opened === entry.id && entry.fault">
              <td colspan="4"><FaultNote :fault="entry.fault" mild /></td>
            </tr>
          </template>
          <tr v-if="entries.length === 0">
            <td colspan="4" class="quiet">Nothing here.</td>
          </tr>
        </tbody>
      </table>
    </section>
    <v-btn v-if="more && entries.length > 0" class="older" @click="older">Older entries</v-btn>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.severity {
  max-width: 140px;
}
.when {
  white-space: nowrap;
}
.source,
.what {
  overflow-wrap: anywhere;
}
th:nth-child(1) {
  width: 190px;
}
th:nth-child(2) {
  width: 80px;
}
th:nth-child(3) {
  width: 180px;
}
.older {
  margin-top: 12px;
}
</style>
