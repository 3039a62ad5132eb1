<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import type { CallOutcome } from '#core/calls/call'
import { callsCsv, callsLines, callsText, resetCallTotals, showCallTotals } from '#shared/api/calls'
import { addressOf } from '#shared/api/operation'
import type { CallTotals } from '#shared/calls'

/** What clients asked of an outlet and what they were given, as it happens; who asks most, and what is asked for in vain. */
const route = useRoute()
const id = Number(route.params.id)
const lists = useLists()
const notices = useNotices()
await lists.whenLoaded()
const name = computed(() => lists.outlets.find((one) => one.id === id)?.name ?? 'Outlet')

const outcomes = [
  { value: null, title: 'every answer' },
  { value: 'well' as const, title: 'answered well' },
  { value: 'partly' as const, title: 'partly refused' },
  { value: 'refused' as const, title: 'refused' },
]
const find = ref(typeof route.query.find === 'string' ? route.query.find : '')
const settledFind = refDebounced(find, 250)
const outcome = ref<CallOutcome | null>(null)
const client = ref<number | undefined>()
const asked = () => ({ client: client.value, text: settledFind.value ?? '', outcome: outcome.value })
const { calls, more, refused, held, older } = useCalls(id, asked)

const totals = shallowRef<CallTotals | null>(null)
const count = async () => {
  totals.value = await callApi(showCallTotals, { params: { id } }).catch(() => totals.value)
}
useRepeated(count, 2000)

const isFiltered = computed(() => Boolean(settledFind.value || outcome.value || client.value !== undefined))
const nothing = computed(() => (isFiltered.value ? 'No call of those held fits this filter.' : 'Nobody asked anything yet.'))
const clear = () => {
  ;[find.value, outcome.value, client.value] = ['', null, undefined]
}
const files = [
  { title: 'Text', operation: callsText, name: 'calls.txt' },
  { title: 'CSV', operation: callsCsv, name: 'calls.csv' },
  { title: 'JSON Lines', operation: callsLines, name: 'calls.jsonl' },
]
const hrefOf = (operation: (typeof files)[number]['operation']) => {
  const { client: only, text, outcome: answer } = asked()
  return `/api${addressOf(operation, { params: { id }, query: { client: only, text: text || undefined, outcome: answer ?? undefined } })}`
}
const asking = ref(false)
const reset = async () => {
  try {
    await callApi(resetCallTotals, { params: { id }, body: {} })
    client.value = undefined
    notices.tell('Counted anew from now on.')
    await count()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/outlets" class="trail">Outlets ›</NuxtLink>
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ name }} ›</NuxtLink>
      <h1>Client calls</h1>
      <span class="fill" />
      <span class="head-buttons">
        <v-btn :disabled="!totals?.clients.length" @click="asking = true">Count anew…</v-btn>
        <v-menu>
          <template #activator="{ props: menu }"><v-btn v-bind="menu">Save as…</v-btn></template>
          <v-list>
            <v-list-item v-for="file in files" :key="file.title" :href="hrefOf(file.operation)" :download="file.name" :title="file.title" />
          </v-list>
        </v-menu>
        <v-btn variant="flat" @click="held = !held">{{ held ? 'Follow' : 'Hold' }}</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <div class="board">
      <div class="side">
        <CallerTotals v-if="totals" v-model:client="client" :totals="totals" @find="(text) => (find = text)" />
      </div>
      <div class="main">
        <div class="filters">
          <ListFilter v-model="find" label="Filter by words" />
          <v-select v-model="outcome" class="outcome" :items="outcomes" aria-label="How it was answered" />
          <v-btn v-if="isFiltered" size="small" variant="text" @click="clear">No filter</v-btn>
          <span class="fill" />
          <span v-if="held" class="is-late">Held: newer calls are not shown.</span>
        </div>
        <section class="sheet">
          <CallList :calls="calls" :nothing="nothing" @only="(only) => (client = only)" />
        </section>
        <v-btn v-if="more && calls.length > 0" class="older" @click="older">Older calls</v-btn>
        <p class="quiet held">
          Every call is counted. While nobody looks here, 50 a second are held of those that were answered well, and 50 of the others.
        </p>
      </div>
    </div>
    <AskDialog v-model="asking" title="Count anew?" yes="Count anew" no="Keep counting" @yes="reset">
      <p>The totals of each client, and what was asked for in vain, begin at nothing. The calls stay.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.filters {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 10px;
}
.outcome {
  max-width: 170px;
}
.held {
  margin: 10px 0 0;
  font-size: 12px;
}
.older {
  margin-top: 10px;
}
@media (max-width: 1100px) {
  .board {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
