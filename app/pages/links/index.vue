<script setup lang="ts">
import { protocols } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { placeOf } from '#shared/links/link'
import type { ThingColumn } from '~/components/ThingTable.vue'

const live = useLive()
const lists = useLists()
const filter = ref('')
const nodes = computed(() => new Map((live.status?.nodes ?? []).map(({ id, name }) => [id, name])))
const columns = computed<readonly ThingColumn[]>(() => [
  { title: 'Speaks' },
  ...(nodes.value.size > 0 ? [{ title: 'Runs on' }] : []),
  { title: 'Address', as: 'mono' },
  { title: 'Tags', as: 'number' },
  { title: 'Answers in', as: 'number' },
  { title: 'Connections', as: 'number' },
])
/** Where it runs, where there is more than one machine. */
const placeOn = (nodeId: number | null): string[] =>
  nodes.value.size === 0 ? [] : [nodeId === null ? 'here' : (nodes.value.get(nodeId) ?? '—')]
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
        ...placeOn(link.nodeId),
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
