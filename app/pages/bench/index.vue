<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { counted } from '#core/text/counted'
import type { BenchEntry, BenchPoint } from '#shared/bench'
import { linkIn } from '~/sources/face'

/** Trying addresses without making tags. */
const lookEveryMs = 500
const bench = useBench()
const lists = useLists()
const session = useSession()
const now = useNow({ interval: 500 })
await lists.whenLoaded()
onMounted(() => session.can('configure') && void bench.load())

const find = ref<string | null>('')
const shown = computed(() => {
  const words = (find.value ?? '').toLowerCase().split(/\s+/).filter(Boolean)
  const textOf = ({ linkId, address, type }: BenchEntry) => `${linkIn(lists.links, linkId)?.name} ${address} ${type}`.toLowerCase()
  return words.length === 0 ? bench.entries : bench.entries.filter((entry) => words.every((word) => textOf(entry).includes(word)))
})
const chosenId = ref<number | null>(null)
useRepeated(() => bench.look(chosenId.value), lookEveryMs)
const chosen = computed(() => bench.entries.find(({ id }) => id === chosenId.value) ?? null)

const busy = ref(false)
const put = async (points: BenchPoint[], then: (ids: number[]) => void | Promise<void>) => {
  busy.value = true
  const entries = await bench.add(points)
  if (entries && entries.length > 0) {
    chosenId.value = entries[0]!.id
    await then(entries.map(({ id }) => id))
  }
  busy.value = false
}
const asking = ref(false)
const removeAll = async () => {
  await bench.remove(bench.entries.map(({ id }) => id))
  asking.value = false
  chosenId.value = null
}
const allIds = computed(() => shown.value.map(({ id }) => id))

const step = (by: number) => {
  const at = shown.value.findIndex(({ id }) => id === chosenId.value)
  chosenId.value = shown.value[Math.max(0, Math.min(shown.value.length - 1, at + by))]?.id ?? null
}
useRowKeys(() => ({
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  Escape: () => (chosenId.value = null),
  ...(chosen.value ? { r: () => bench.read([chosenId.value!]), Delete: () => bench.remove([chosenId.value!]) } : {}),
}))
</script>

<template>
  <SplitPage :open="chosen !== null">
    <div class="page-head">
      <h1>Bench</h1>
      <ListFilter v-if="bench.entries.length" v-model="find" label="Find a point" />
      <span class="fill" />
      <v-btn v-if="lists.links.length" to="/bench/block">Unknown registers</v-btn>
      <template v-if="bench.entries.length">
        <v-btn @click="bench.read(allIds)">Read all once</v-btn>
        <v-btn v-if="bench.kept.size" @click="bench.rest([...bench.kept])">Stop all</v-btn>
        <v-btn v-else @click="bench.keep(allIds)">Keep reading all</v-btn>
        <v-btn @click="asking = true">Clear…</v-btn>
      </template>
    </div>
    <EmptyState
      v-if="!session.can('configure')"
      title="The bench is for whoever configures"
      text="It reads and writes any address of a device. Somebody who administers this site can give you that role; tags are watched without it."
    >
      <v-btn to="/tags/watch">Watch lists</v-btn>
    </EmptyState>
    <EmptyState
      v-else-if="lists.links.length === 0"
      title="Nothing to try yet"
      text="The bench reads and writes single addresses without making tags. It needs a link to reach them through."
    >
      <v-btn variant="flat" to="/links/new">New link</v-btn>
    </EmptyState>
    <template v-else>
      <BenchForm :busy="busy" @read="put($event, bench.read)" @keep="put($event, (ids) => bench.keep(ids))" />
      <FaultNote v-if="bench.refused" :fault="bench.refused.why" class="gap" />
      <p v-if="bench.loaded && bench.entries.length === 0" class="quiet hint">
        Type an address and press Enter: what comes, and every reading of it, stands here then. No tag is made, and what you tried stays
        until you take it off.
      </p>
      <p v-else-if="shown.length === 0 && bench.loaded" class="quiet hint">Nothing here holds these words.</p>
      <BenchTable v-else-if="bench.loaded" :entries="shown" :chosen="chosenId" :now="now.getTime()" @choose="chosenId = $event" />
    </template>
    <AskDialog v-model="asking" title="Clear the bench?" yes="Clear it" no="Keep it" grave @yes="removeAll">
      <p>{{ counted(bench.entries.length, 'point') }} and what came of them go from your bench. Tags stay what they are.</p>
    </AskDialog>
    <template #beside>
      <BenchPanel v-if="chosen" :key="chosen.id" :entry="chosen" @close="chosenId = null" @remove="bench.remove([chosen.id])" />
    </template>
  </SplitPage>
</template>

<style scoped>
.gap {
  margin-bottom: 12px;
}
.hint {
  padding: 8px 4px;
  max-width: 80ch;
}
</style>
