<script setup lang="ts">
import { copiedText, type Pasted } from '#core/bridges/copied'
import { destinationText, triggerText } from '#core/bridges/words'
import type { ThingColumn } from '~/components/ThingTable.vue'
import { counted } from '#core/text/counted'

const live = useLive()
const lists = useLists()
const filter = ref('')
const runsOn = useRunsOn()
const columns = computed<readonly ThingColumn[]>(() => [
  ...runsOn.columns.value,
  { title: 'When' },
  { title: 'Sends' },
  { title: 'Runs', as: 'number' },
  { title: 'Runs/s', as: 'number' },
  { title: 'Kept', as: 'number' },
])
const rows = computed(() =>
  lists.bridges.filter(fitting(filter.value, ({ name }) => name)).map((bridge) => {
    const status = live.status?.bridges.find(({ id }) => id === bridge.id)
    const when = bridge.when.map((trigger) => triggerText(trigger, lists.placeName)).join(' or ') || 'by hand'
    const sends = bridge.send.map((destination) => destinationText(destination, lists.placeName)).join(' and ')
    const kept = status?.destinations.reduce((total, one) => total + one.kept, 0) ?? null
    const perSecond = status ? Math.round(status.perSecond * 10) / 10 : null
    return {
      path: `/bridges/${bridge.id}`,
      name: bridge.name,
      flow: status?.flow ?? null,
      sentence: status?.sentence ?? null,
      cells: [
        ...runsOn.cells(bridge.nodeId),
        when,
        sends,
        status?.runs.toLocaleString('en-GB') ?? null,
        perSecond,
        kept?.toLocaleString('en-GB') ?? null,
      ],
    }
  }),
)
const pasting = ref(false)
const open = ({ draft }: Pasted) => {
  usePasted().give(draft)
  return navigateTo('/bridges/new')
}
const notices = useNotices()
const { copy } = useCopy()
const copyShown = async () => {
  const shown = lists.bridges.filter(fitting(filter.value, ({ name }) => name)).map(({ id: _id, revision: _revision, ...draft }) => ({
    ...draft,
    // another site has other machines
    nodeId: null,
  }))
  await copy(copiedText(shown, lists.placeName))
  notices.tell(`${counted(shown.length, 'bridge')} copied.`)
}
useListKeys(() => '/bridges/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Bridges</h1>
      <ListFilter v-if="lists.bridges.length" v-model="filter" label="Filter by name" />
      <span class="quiet">Values and messages on their way to other devices, brokers, databases and files.</span>
      <span class="fill" />
      <v-btn v-if="rows.length" @click="copyShown">Copy {{ filter ? 'these' : 'all' }}</v-btn>
      <Allowed role="configure"><v-btn @click="pasting = true">Paste …</v-btn></Allowed>
      <Allowed role="configure"><v-btn variant="flat" to="/bridges/new">New bridge</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="lists.loaded && lists.bridges.length === 0"
      title="Nothing is sent on yet"
      text="A bridge is a sentence: when something happens, take these values, send them there, and if it is away, keep them."
    >
      <Allowed role="configure"><v-btn variant="flat" to="/bridges/new">Make a bridge</v-btn></Allowed>
    </EmptyState>
    <PasteBridges v-if="pasting" v-model="pasting" @one="open" />
    <ThingTable
      v-if="!lists.loaded || lists.bridges.length"
      label="Bridges"
      :columns="columns"
      :rows="rows"
      :nothing="lists.loaded ? `No bridge goes by “${filter}”.` : '…'"
    />
  </div>
</template>
