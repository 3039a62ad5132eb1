<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { momentText } from '#core/text/moment'
import { listStatistics, resetStatistics } from '#shared/api/statistics'
import type { LinkStatistics } from '#shared/statistics'
import { statisticsRows } from '~/journal/statisticsRows'

/** What was asked of each link and its parts, how it was answered, and how long that took. */
const session = useSession()
const notices = useNotices()
const links = shallowRef<LinkStatistics[] | null>(null)
const refused = shallowRef<Refused | null>(null)
const find = ref('')
const look = async () => {
  try {
    links.value = (await callApi(listStatistics)).links
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
void look()
useIntervalFn(look, 3000)

const rows = computed(() => statisticsRows(links.value ?? [], find.value))
const since = computed(() => Math.min(...(links.value ?? []).map(({ whole }) => whole.since)))
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
      <v-text-field
        v-model="find"
        data-filter
        class="filter"
        placeholder="Filter by link or unit"
        aria-label="Filter by link or unit"
        clearable
      />
      <span class="fill" />
      <span v-if="links?.length" class="quiet">Since {{ momentText(since) }}. Also as OpenMetrics at <code>/api/metrics</code>.</span>
      <v-btn v-if="session.can('operate')" :disabled="!links?.length" @click="asking = true">Count anew…</v-btn>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <section class="sheet scrolls">
      <table class="rows">
        <thead>
          <tr>
            <th>Link</th>
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
          <tr v-for="row in rows" :key="row.key">
            <td :class="{ part: row.isPart }">
              <NuxtLink v-if="!row.isPart" :to="`/links/${row.id}`">{{ row.name }}</NuxtLink>
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
          <tr v-if="rows.length === 0">
            <td colspan="12" class="quiet">{{ find ? 'Nothing that fits this filter.' : 'No link yet.' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <AskDialog v-model="asking" title="Count anew?" yes="Count anew" no="Keep counting" @yes="reset">
      <p>Requests, failures and times of all links begin at nothing. Bytes and connections go on.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
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
