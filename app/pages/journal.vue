<script setup lang="ts">
import { refDebounced, useIntervalFn } from '@vueuse/core'
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
const entries = shallowRef<Entry[]>([])
const more = ref(true)
const opened = ref<number | null>(null)
const refused = ref<Refused | null>(null)
const pageSize = 100

const query = (before?: number) => {
  const parts = new URLSearchParams({ limit: String(pageSize) })
  if (severity.value) parts.set('severity', severity.value)
  if (settledFind.value) parts.set('find', settledFind.value)
  if (before) parts.set('before', String(before))
  return `/journal?${parts}`
}

/** The newest page; older ones already on screen stay. */
const refresh = async () => {
  try {
    const newest = await callApi<Entry[]>(query())
    const oldest = newest.at(-1)?.id ?? 0
    entries.value = [...newest, ...entries.value.filter(({ id }) => id < oldest)]
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
const older = async () => {
  const page = await callApi<Entry[]>(query(entries.value.at(-1)?.id)).catch(() => [])
  entries.value = [...entries.value, ...page]
  more.value = page.length === pageSize
}
const startOver = async () => {
  entries.value = []
  await refresh()
  more.value = entries.value.length === pageSize
}
watch([severity, settledFind], startOver, { immediate: true })
useIntervalFn(refresh, 2000)

const save = () => {
  const text = entries.value
    .map((entry) => [entry.at, entry.severity, entry.source, entry.text, entry.fault?.code ?? ''].join('\t'))
    .join('\n')
  const anchor = Object.assign(document.createElement('a'), {
    href: URL.createObjectURL(new Blob([text], { type: 'text/plain' })),
    download: 'journal.txt',
  })
  anchor.click()
  URL.revokeObjectURL(anchor.href)
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Journal</h1>
      <v-text-field v-model="find" data-filter class="filter" placeholder="Filter by words" aria-label="Filter by words" clearable />
      <v-select v-model="severity" class="severity" :items="severities" aria-label="Severity" />
      <span class="fill" />
      <span class="quiet">The newest 20,000 entries are kept, over restarts.</span>
      <v-btn :disabled="entries.length === 0" @click="save">Save as text</v-btn>
    </div>
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
              <td class="mono when">{{ new Date(entry.at).toLocaleString() }}</td>
              <td
                :class="{
                  'is-late': entry.severity === 'caution',
                  'is-broken': entry.severity === 'trouble',
                  quiet: entry.severity === 'note',
                }"
              >
                {{ entry.severity }}
              </td>
              <td>{{ entry.source }}</td>
              <td>{{ entry.text }}</td>
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
