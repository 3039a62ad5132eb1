<script setup lang="ts">
import { listWrites } from '#shared/api/site'
import { refDebounced } from '@vueuse/core'
import { duration } from '#core/text/duration'
import type { ListedWrite } from '#shared/writes'

/** Every value that was written to the plant: by whom, from where, what was there before, and what came of it. */
const route = useRoute()
const router = useRouter()
const outcomes = [
  { value: null, title: 'everything' },
  { value: 'only', title: 'what was not taken' },
]
const failed = ref<'only' | null>(null)
const find = ref('')
const settledFind = refDebounced(find, 250)
const tag = computed(() => (typeof route.query.tag === 'string' ? route.query.tag : null))
const { entries, more, refused, older } = useLog(listWrites, () => ({ tag: tag.value, failed: failed.value, find: settledFind.value }))

const columns = [
  { title: 'Who', class: 'who' },
  { title: 'Tag' },
  { title: 'Before', class: 'number' },
  { title: 'Written', class: 'number' },
  { title: 'Outcome' },
]
const nothing = computed(() => `Nothing was written${tag.value || settledFind.value || failed.value ? ' that fits this filter' : ' yet'}.`)
const wayText: Record<ListedWrite['via'], string> = { page: 'page', token: 'program', client: 'client', bridge: 'bridge' }
const save = () =>
  saveTextFile(
    'writes.txt',
    entries.value
      .map(({ at, who, via, place, path, before, value, ok, fault }) =>
        [at, who, wayText[via], place, path, before ?? '', value, ok ? 'taken' : (fault?.code ?? 'not taken')].join('\t'),
      )
      .join('\n'),
  )
</script>

<template>
  <div class="page">
    <JournalHead>
      <v-text-field
        v-model="find"
        data-filter
        class="filter"
        placeholder="Filter by tag or name"
        aria-label="Filter by tag or name"
        clearable
      />
      <v-select v-model="failed" class="outcome" :items="outcomes" aria-label="Outcome" />
      <v-btn v-if="tag" @click="router.replace('/journal/writes')">Of all tags</v-btn>
      <span class="fill" />
      <span class="quiet">The newest 50,000 writes are kept, over restarts.</span>
      <v-btn :disabled="entries.length === 0" @click="save">Save as text</v-btn>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <LogTable v-slot="{ entry }" :entries :columns :more older-title="Older writes" :nothing @older="older">
      <td class="wrap">
        {{ entry.who }} <span class="quiet">{{ wayText[entry.via] }}{{ entry.place ? `, ${entry.place}` : '' }}</span>
      </td>
      <td class="wrap">
        <NuxtLink v-if="entry.tagId !== null" :to="`/tags?tag=${entry.tagId}`" @click.stop>{{ entry.path }}</NuxtLink>
        <template v-else>{{ entry.path }}</template>
      </td>
      <td class="number mono wrap">{{ entry.before ?? '—' }}</td>
      <td class="number mono wrap">{{ entry.value }}</td>
      <td :class="{ 'is-broken': !entry.ok }">
        {{ entry.ok ? `taken, ${duration(entry.ms)}` : (entry.fault?.what ?? 'not taken') }}
      </td>
    </LogTable>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.outcome {
  max-width: 180px;
}
.wrap {
  overflow-wrap: anywhere;
}
:deep(th.who) {
  width: 240px;
}
</style>
