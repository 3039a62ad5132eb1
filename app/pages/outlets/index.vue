<script setup lang="ts">
import type { ThingColumn } from '~/components/ThingTable.vue'
import { outletFacts, outletFactsOf } from '#core/outlets/registry'

const live = useLive()
const lists = useLists()
const filter = ref('')
const runsOn = useRunsOn()
const columns = computed<readonly ThingColumn[]>(() => [
  { title: 'Kind' },
  ...runsOn.columns.value,
  { title: 'Address', as: 'mono' },
  { title: 'Clients', as: 'number' },
  { title: 'Items', as: 'number' },
  { title: 'Changes/s', as: 'number' },
])
const rows = computed(() =>
  lists.outlets
    .filter(fitting(filter.value, ({ name, kind, settings }) => `${name} ${outletFactsOf(kind).place(settings)}`))
    .map((outlet) => {
      const status = live.status?.outlets.find(({ id }) => id === outlet.id)
      const { title, capabilities, place } = outletFactsOf(outlet.kind)
      const address = status?.addresses.join(', ') || place(outlet.settings)
      const clients = capabilities.clients ? (status?.clients.length ?? null) : null
      return {
        path: `/outlets/${outlet.id}`,
        name: outlet.name,
        flow: status?.flow ?? null,
        sentence: status?.sentence ?? null,
        cells: [title, ...runsOn.cells(outlet.nodeId), address, clients, status?.items ?? null, status?.changesPerSecond ?? null],
      }
    }),
)
useListKeys(() => '/outlets/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Outlets</h1>
      <ListFilter v-if="lists.outlets.length" v-model="filter" label="Filter by name or address" />
      <span class="quiet">Where consumers come to get the values, and where values are sent.</span>
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/outlets/new">New outlet</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="lists.loaded && lists.outlets.length === 0"
      title="Nothing serves the values yet"
      text="An outlet lets SCADA and other programs read, subscribe and write the tags."
    >
      <Allowed role="configure">
        <v-btn v-for="one in outletFacts" :key="one.kind" variant="flat" :to="`/outlets/new?kind=${one.kind}`">{{ one.title }}</v-btn>
      </Allowed>
    </EmptyState>
    <ThingTable v-else label="Outlets" :columns="columns" :rows="rows" :nothing="lists.loaded ? `No outlet goes by “${filter}”.` : '…'" />
  </div>
</template>
