<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { turnWords } from '#core/alarms/words'
import { listAlarmEvents } from '#shared/api/alarms'

/** What became of alarms, the newest first. */
const find = ref('')
const settledFind = refDebounced(find, 250)
const { entries, more, refused, older } = useLog(listAlarmEvents, () => ({ find: settledFind.value || undefined }))
const shown = computed(() => entries.value.map((entry) => ({ ...entry, fault: null })))
const columns = [
  { title: 'Tag' },
  { title: 'Limit' },
  { title: 'It was' },
  { title: 'What happened' },
  { title: 'Value', class: 'number' },
  { title: 'Who' },
]
const severityClass = { note: 'quiet', caution: 'is-late', trouble: 'is-broken' } as const
const nothing = computed(() => (settledFind.value ? `Nothing goes by “${settledFind.value}”.` : 'Nothing was beyond a limit yet.'))
const save = () =>
  saveTextFile(
    'alarms.txt',
    entries.value
      .map(({ at, severity, path, limit, turn, text, value, who, comment }) =>
        [at, severity, path, limit, turn, text, value, who, comment].join('\t'),
      )
      .join('\n'),
  )
</script>

<template>
  <div class="page">
    <AlarmsHead>
      <v-text-field
        v-model="find"
        data-filter
        class="filter"
        placeholder="Filter by tag, words or name"
        aria-label="Filter by tag, words or name"
        clearable
      />
      <span class="fill" />
      <span class="quiet">The newest 100,000 are kept, over restarts.</span>
      <v-btn :disabled="entries.length === 0" @click="save">Save as text</v-btn>
    </AlarmsHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <LogTable v-slot="{ entry }" :entries="shown" :columns :more older-title="Older ones" :nothing @older="older">
      <td class="mono wrap">
        <NuxtLink :to="`/tags?tag=${entry.tagId}`">{{ entry.path }}</NuxtLink>
      </td>
      <td>{{ entry.limit }}</td>
      <td :class="entry.turn === 'raised' ? severityClass[entry.severity] : 'quiet'">{{ turnWords[entry.turn] }}</td>
      <td class="wrap">{{ entry.turn === 'raised' ? entry.text : entry.comment }}</td>
      <td class="number mono wrap">{{ entry.value }}</td>
      <td class="wrap">{{ entry.who || '—' }}</td>
    </LogTable>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.wrap {
  overflow-wrap: anywhere;
}
</style>
