<script setup lang="ts">
import { momentText } from '#core/text/moment'
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
const opened = ref<number | null>(null)
const tag = computed(() => (typeof route.query.tag === 'string' ? route.query.tag : null))
const { entries, more, refused, older } = useLog<ListedWrite>(() => ({
  path: '/writes',
  parts: { tag: tag.value, failed: failed.value, find: settledFind.value },
}))

const wayText: Record<ListedWrite['via'], string> = { page: 'page', token: 'program', client: 'client' }
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
    <section class="sheet">
      <table class="rows">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>Tag</th>
            <th class="number">Before</th>
            <th class="number">Written</th>
            <th>Outcome</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="write in entries" :key="write.id">
            <tr :class="{ opens: write.fault }" @click="opened = opened === write.id ? null : write.id">
              <td class="mono when">{{ momentText(write.at) }}</td>
              <td class="wrap">
                {{ write.who }} <span class="quiet">{{ wayText[write.via] }}{{ write.place ? `, ${write.place}` : '' }}</span>
              </td>
              <td class="wrap">
                <NuxtLink v-if="write.tagId !== null" :to="`/tags?tag=${write.tagId}`" @click.stop>{{ write.path }}</NuxtLink>
                <template v-else>{{ write.path }}</template>
              </td>
              <td class="number mono">{{ write.before ?? '—' }}</td>
              <td class="number mono">{{ write.value }}</td>
              <td :class="{ 'is-broken': !write.ok }">
                {{ write.ok ? `taken, ${duration(write.ms)}` : (write.fault?.what ?? 'not taken') }}
              </td>
            </tr>
            <tr v-if="opened === write.id && write.fault">
              <td colspan="6"><FaultNote :fault="write.fault" mild /></td>
            </tr>
          </template>
          <tr v-if="entries.length === 0">
            <td colspan="6" class="quiet">Nothing was written{{ tag || settledFind || failed ? ' that fits this filter' : ' yet' }}.</td>
          </tr>
        </tbody>
      </table>
    </section>
    <v-btn v-if="more && entries.length > 0" class="older" @click="older">Older writes</v-btn>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.outcome {
  max-width: 180px;
}
.when {
  white-space: nowrap;
  width: 190px;
}
.wrap {
  overflow-wrap: anywhere;
}
.older {
  margin-top: 12px;
}
</style>
