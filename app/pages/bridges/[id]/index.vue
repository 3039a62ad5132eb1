<script setup lang="ts">
import { copiedText } from '#core/bridges/copied'
import { counted } from '#core/text/counted'
import { changeBridge, removeBridge, runBridge, showBridge } from '#shared/api/bridges'
import type { Bridge } from '#shared/bridges/bridge'

const route = useRoute()
const live = useLive()
const lists = useLists()
const session = useSession()
const notices = useNotices()
const id = Number(route.params.id)
const bridge = shallowRef<Bridge | null>(null)
const refused = ref<Refused | null>(null)
const { asking, remove } = useRemoval('Bridge', '/bridges', () => callApi(removeBridge, { params: { id } }))
await lists.whenLoaded()
try {
  bridge.value = await callApi(showBridge, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}

const status = computed(() => live.status?.bridges.find((known) => known.id === id) ?? null)
const kept = computed(() => status.value?.destinations.reduce((total, one) => total + one.kept, 0) ?? 0)
/** Changes with each record that is laid aside, sent or dropped. */
const asideNews = computed(() => status.value?.destinations.map(({ refused, aside }) => `${refused} ${aside}`).join() ?? '')
const dropped = computed(() => status.value?.destinations.reduce((total, one) => total + one.dropped, 0) ?? 0)
const facts = computed(() => {
  if (!status.value || status.value.flow === 'off') return ''
  const { skipped, failed } = status.value
  const parts = [
    kept.value > 0 && !status.value.fault ? `${counted(kept.value, 'record')} kept` : '',
    skipped > 0 ? `${skipped.toLocaleString('en-GB')} skipped` : '',
    failed > 0 ? `${failed.toLocaleString('en-GB')} failed` : '',
    `${dropped.value.toLocaleString('en-GB')} dropped`,
  ]
  return parts.filter(Boolean).join(' · ')
})

const renaming = ref(false)
const taken = (saved: Bridge) => {
  bridge.value = saved
  renaming.value = false
}

/** Switched alone, without whatever is typed below. */
const turn = async (on: boolean) => {
  const { id: _id, revision, ...rest } = bridge.value!
  try {
    const saved = await callApi(changeBridge, { params: { id }, body: { revision, bridge: { ...rest, on } } })
    bridge.value = saved
    notices.tell(`Bridge “${saved.name}” ${on ? 'started' : 'stopped'}.`, saved.revision)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const { copy } = useCopy()
const copyBridge = async () => {
  const { id: _id, revision: _revision, ...draft } = bridge.value!
  await copy(copiedText([draft], lists.placeName))
  notices.tell('Copied. “Paste …” on the page of all bridges takes it up, here or at another site.')
}
const runNow = async () => {
  try {
    const { run } = await callApi(runBridge, { params: { id } })
    notices.tell(`Run ${run} began.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/bridges" class="trail">Bridges ›</NuxtLink>
      <h1>{{ bridge?.name ?? 'Bridge' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status" :class="status.flow === 'flowing' ? 'quiet' : `is-${status.flow}`">{{ status.sentence }}</span>
      <span class="quiet">{{ facts }}</span>
      <span class="fill" />
      <span v-if="bridge" class="head-buttons">
        <v-btn v-if="session.can('operate') && bridge.on" @click="runNow">Run now</v-btn>
        <v-btn :to="`/bridges/${id}/path`">Path check</v-btn>
        <v-btn @click="copyBridge">Copy</v-btn>
        <v-btn v-if="session.can('configure')" @click="renaming = !renaming">Rename</v-btn>
        <v-btn v-if="session.can('configure')" @click="turn(!bridge.on)">{{ bridge.on ? 'Stop' : 'Start' }}</v-btn>
        <v-btn v-if="session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="status?.fault && status.flow === 'broken'">
      <h2 class="visually-hidden">What is wrong</h2>
      <FaultNote :fault="status.fault" class="gap" />
    </template>
    <template v-if="bridge">
      <BridgeSheet :key="bridge.revision" :initial="bridge" :bridge="bridge" :renaming="renaming" @saved="taken" />
      <RefusedRecords :bridge-id="id" :news="asideNews" />
      <BridgeRuns :bridge-id="id" />
    </template>
    <AskDialog v-model="asking" :title="`Remove “${bridge?.name}”?`" yes="Remove bridge" no="Keep" grave @yes="remove(bridge!.name)">
      <p>
        {{
          kept > 0 ? `${counted(kept, 'record')} that it keeps for its receivers will be dropped.` : 'It keeps nothing for its receivers.'
        }}
        The bridge can be taken back afterwards; what it kept cannot.
      </p>
    </AskDialog>
  </div>
</template>

<style scoped>
.gap {
  margin-bottom: 12px;
}
</style>
