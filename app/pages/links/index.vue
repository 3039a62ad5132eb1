<script setup lang="ts">
import { protocols } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { placeOf } from '#shared/links/link'
import type { ThingColumn } from '~/components/ThingTable.vue'

const live = useLive()
const lists = useLists()
const filter = ref('')
const runsOn = useRunsOn()
const columns = computed<readonly ThingColumn[]>(() => [
  { title: 'Speaks' },
  ...runsOn.columns.value,
  { title: 'Address', as: 'mono' },
  { title: 'Tags', as: 'number' },
  { title: 'Answers in', as: 'number' },
  { title: 'Connections', as: 'number' },
])
const rows = computed(() =>
  lists.links.filter(fitting(filter.value, ({ name, ...link }) => `${name} ${placeOf({ name, ...link })}`)).map((link) => {
    const status = live.status?.links.find(({ id }) => id === link.id)
    const answer = status?.answerMs == null ? null : duration(status.answerMs)
    return {
      path: `/links/${link.id}`,
      name: link.name,
      flow: status?.flow ?? null,
      sentence: status?.arrivals ? `${counted(status.arrivals, 'device')} arrived · ${status.sentence}` : (status?.sentence ?? null),
      cells: [
        protocols[link.kind].title,
        ...runsOn.cells(link.nodeId),
        placeOf(link),
        status?.tags ?? null,
        answer,
        status?.connections ?? null,
      ],
    }
  }),
)
useListKeys(() => '/links/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Links</h1>
      <ListFilter v-if="lists.links.length" v-model="filter" label="Filter by name or address" />
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/links/new">New link</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="lists.loaded && lists.links.length === 0"
      title="No link yet"
      text="A link is the way to one outside party: a device, a controller, a server."
    >
      <v-btn v-for="protocol in protocols" :key="protocol.kind" variant="flat" :to="`/links/new?kind=${protocol.kind}`"
        >Connect by {{ protocol.title }}</v-btn
      >
    </EmptyState>
    <ThingTable v-else label="Links" :columns="columns" :rows="rows" :nothing="lists.loaded ? `No link goes by “${filter}”.` : '…'" />
  </div>
</template>
