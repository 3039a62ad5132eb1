<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { momentText } from '#core/text/moment'
import { listStatistics, resetStatistics } from '#shared/api/statistics'
import type { AllStatistics, MeasuredKind } from '#shared/statistics'
import { placeOfMeasured, statisticsRows, type StatisticsRow } from '~/journal/statisticsRows'

/** What was asked of each link, outlet and bridge and their parts, how it was answered, how long that took, and how it went over the day. */
const session = useSession()
const notices = useNotices()
const all = shallowRef<AllStatistics | null>(null)
const refused = shallowRef<Refused | null>(null)
const find = ref('')
const only = ref<MeasuredKind | null>(null)
const kinds = [
  { value: null, title: 'everything' },
  { value: 'link' as const, title: 'links' },
  { value: 'outlet' as const, title: 'outlets' },
  { value: 'bridge' as const, title: 'bridges' },
]
const look = async () => {
  try {
    all.value = await callApi(listStatistics)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
void look()
useIntervalFn(look, 3000)

const rows = computed(() => (all.value ? statisticsRows(all.value, find.value, only.value) : []))
const counted = computed(() => (all.value ? [...all.value.links, ...all.value.outlets, ...all.value.bridges] : []))
const since = computed(() => Math.min(...counted.value.map(({ whole }) => whole.since)))
/** Whose day is shown. */
const opened = ref<string | null>(null)
const toggle = ({ key }: StatisticsRow) => (opened.value = opened.value === key ? null : key)
const asking = ref(false)
const reset = async () => {
  try {
    await callApi(resetStatistics, { body: {} })
    notices.tell('Counted anew from now on.')
    await look()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <div class="page">
    <JournalHead>
      <v-text-field v-model="find" data-filter class="filter" placeholder="Filter by name" aria-label="Filter by name" clearable />
      <v-select v-model="only" class="kind" :items="kinds" aria-label="Of what" />
      <span class="fill" />
      <v-btn v-if="session.can('operate')" :disabled="counted.length === 0" @click="asking = true">Count anew…</v-btn>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <p v-if="counted.length" class="quiet since">
      Since {{ momentText(since) }}. Also as OpenMetrics at <code>/api/metrics</code>, and as tags: make a tag of health.
    </p>
    <section class="sheet scrolls">
      <table class="rows">
        <thead>
          <tr>
            <th>Of what</th>
            <th class="number">Requests</th>
            <th class="number">Failed</th>
            <th class="causes">Most often because of</th>
            <th class="number">Half within</th>
            <th class="number">95 % within</th>
            <th class="number">99 % within</th>
            <th class="number">Longest</th>
            <th class="number">Busy</th>
            <th class="number">In</th>
            <th class="number">Out</th>
            <th class="number">Connections</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="row in rows" :key="row.key">
            <tr>
              <td :class="{ part: row.isPart }">
                <template v-if="!row.isPart">
                  <button
                    type="button"
                    class="fold"
                    :aria-expanded="opened === row.key"
                    :aria-label="`How the day of ${row.name} went`"
                    @click="toggle(row)"
                  >
                    {{ opened === row.key ? '−' : '+' }}
                  </button>
                  <NuxtLink :to="`${placeOfMeasured[row.of]}/${row.id}`">{{ row.name }}</NuxtLink>
                  <span class="quiet kind-of">{{ row.of }}</span>
                </template>
                <template v-else>{{ row.name }}</template>
              </td>
              <td class="number mono">{{ row.requests }}</td>
              <td class="number mono" :class="{ 'is-broken': row.failures !== '0' }">{{ row.failures }}</td>
              <td>
                <NuxtLink v-if="row.isExplained" class="mono" :to="`/journal/codes?text=${encodeURIComponent(row.cause)}`">{{
                  row.cause
                }}</NuxtLink>
                <span v-else class="mono">{{ row.cause }}</span>
              </td>
              <td v-for="(time, i) in row.times" :key="i" class="number mono">{{ time }}</td>
              <td class="number mono">{{ row.busy }}</td>
              <td class="number mono">{{ row.bytesIn }}</td>
              <td class="number mono">{{ row.bytesOut }}</td>
              <td class="number mono">{{ row.connections }}</td>
            </tr>
            <tr v-if="opened === row.key">
              <td colspan="12"><DayCourse :id="row.id" :of="row.of" :name="row.name" /></td>
            </tr>
          </template>
          <tr v-if="rows.length === 0">
            <td colspan="12" class="quiet">{{ find ? 'Nothing that fits this filter.' : 'Nothing to count yet.' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <AskDialog v-model="asking" title="Count anew?" yes="Count anew" no="Keep counting" @yes="reset">
      <p>Requests, failures and times of everything begin at nothing. Bytes, connections and the course of the day go on.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.kind {
  max-width: 140px;
}
.filter {
  min-width: 180px;
}
.kind-of {
  margin-left: 8px;
}
.since {
  margin: 0 0 10px;
}
.fold {
  width: 20px;
  font-weight: 600;
}
.scrolls {
  overflow-x: auto;
}
.part {
  padding-left: 28px;
}
.causes {
  min-width: 150px;
}
</style>
