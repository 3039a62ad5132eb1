<script setup lang="ts">
import { counted } from '#core/text/counted'
import { clockText } from '#core/text/moment'
import { changeRecordSet, readRecordSet, removeRecordSet, showRecordSet } from '#shared/api/recordSets'
import type { RecordSet } from '#shared/records/recordSet'

const route = useRoute()
const live = useLive()
const lists = useLists()
const session = useSession()
const notices = useNotices()
const id = Number(route.params.id)
const set = shallowRef<RecordSet | null>(null)
const refused = ref<Refused | null>(null)
const { asking, remove } = useRemoval('Record set', '/links', () => callApi(removeRecordSet, { params: { id } }))
await lists.whenLoaded()
try {
  set.value = await callApi(showRecordSet, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}
const status = computed(() => live.status?.recordSets.find((known) => known.id === id) ?? null)
const facts = computed(() => {
  if (!status.value || status.value.flow === 'off' || status.value.wholeAt === null) return ''
  const { changes, wholeAt, readMs } = status.value
  const took = readMs === null ? '' : ` · read in ${readMs < 10 ? readMs.toFixed(1) : Math.round(readMs)} ms`
  return `set ${changes.toLocaleString('en-GB')} whole at ${clockText(wholeAt)}${took}`
})
const renaming = ref(false)
const taken = (saved: RecordSet) => {
  set.value = saved
  renaming.value = false
}
const turn = async (on: boolean) => {
  const { id: _id, revision, ...rest } = set.value!
  try {
    const saved = await callApi(changeRecordSet, { params: { id }, body: { revision, recordSet: { ...rest, on } } })
    set.value = saved
    notices.tell(`Record set “${saved.name}” ${on ? 'started' : 'stopped'}.`, saved.revision)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const reading = ref(false)
const readAgain = async () => {
  reading.value = true
  try {
    const { sentence } = await callApi(readRecordSet, { params: { id } })
    notices.tell(`Read again: ${sentence}.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    reading.value = false
  }
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="set ? `/links/${set.linkId}` : '/links'" class="trail">{{ set ? lists.linkName(set.linkId) : 'Links' }} ›</NuxtLink>
      <h1>{{ set?.name ?? 'Record set' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status && status.flow !== 'broken'" :class="status.flow === 'flowing' ? 'quiet' : `is-${status.flow}`">{{
        status.sentence
      }}</span>
      <span class="quiet">{{ facts }}</span>
      <span class="fill" />
      <span v-if="set" class="head-buttons">
        <BusyButton v-if="session.can('operate') && set.on" :busy="reading" @click="readAgain">Read again</BusyButton>
        <v-btn :to="`/tags?below=${encodeURIComponent(set.folder)}`">Its tags</v-btn>
        <v-btn v-if="session.can('configure')" @click="renaming = !renaming">Rename</v-btn>
        <v-btn v-if="session.can('configure')" @click="turn(!set.on)">{{ set.on ? 'Stop' : 'Start' }}</v-btn>
        <v-btn v-if="session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <template v-if="status?.fault && status.flow === 'broken'">
      <h2 class="visually-hidden">What is wrong</h2>
      <FaultNote :fault="status.fault" class="gap" />
    </template>
    <RecordSetSheet v-if="set" :key="set.revision" :initial="set" :record-set="set" :renaming="renaming" @saved="taken" />
    <AskDialog
      v-model="asking"
      :title="`Remove “${set?.name}”?`"
      :yes="status?.tags ? `Remove it and ${counted(status.tags, 'tag')}` : 'Remove record set'"
      no="Keep"
      grave
      @yes="remove(set!.name)"
    >
      <p>Its tags go with it, and clients lose them. The table stays as it is. It can be taken back afterwards.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.gap {
  margin-bottom: 12px;
}
</style>
