<script setup lang="ts">
import { counted } from '#core/text/counted'
import { sizeText } from '#core/text/sizeText'
import { dayText } from '#core/text/moment'
import { howText } from '#core/history/words'
import { bringPast, keepHistory, listRecordings, removeRecording, showHistory } from '#shared/api/history'
import { listWhole } from '#shared/api/lists'
import type { HistoryStock, Recording } from '#shared/history'

/** Which tags are recorded and how; how much that is, and how long it is kept. */
const live = useLive()
const notices = useNotices()
const session = useSession()
const recordings = shallowRef<Recording[]>([])
const stock = shallowRef<HistoryStock | null>(null)
const loaded = ref(false)
const problem = shallowRef<Refused | null>(null)
const filter = ref('')
/** The one that is open; null: none, 'new': one that is not there yet. */
const open = shallowRef<Recording | 'new' | null>(null)

const attempt = async (work: () => Promise<unknown>) => {
  try {
    await work()
    problem.value = null
  } catch (error) {
    problem.value = asRefused(error)
  }
}
const load = () =>
  attempt(async () => {
    const [found, shown] = await Promise.all([callApi(listRecordings, { query: { limit: listWhole } }), callApi(showHistory)])
    recordings.value = found.items
    stock.value = shown
    loaded.value = true
  })
watch(() => live.changes, load, { immediate: true })

const shown = computed(() => recordings.value.filter(fitting(filter.value, ({ pattern }) => pattern)))
const status = computed(() => live.status?.history ?? null)
const removing = shallowRef<Recording | null>(null)
const isRemoving = computed({ get: () => removing.value !== null, set: (value) => !value && (removing.value = null) })
const remove = () =>
  attempt(async () => {
    const { id, pattern } = removing.value!
    removing.value = null
    open.value = null
    await callApi(removeRecording, { params: { id } })
    notices.tell(`“${pattern}” is recorded no more. What was recorded stays.`)
  })
const saved = (recording: Recording) => {
  open.value = null
  notices.tell(`Recording “${recording.pattern}” saved.`, recording.revision)
  void load()
}
const keep = (keeping: HistoryStock['keeping']) =>
  attempt(async () => {
    await callApi(keepHistory, { body: keeping })
    notices.tell('What is too old goes now.')
    await load()
  })

const { busy: bringing, refused: notBrought, attempt: tryToBring } = useAttempt()
const file = ref<HTMLInputElement | null>(null)
const bring = (event: Event) =>
  tryToBring(async () => {
    const field = event.target as HTMLInputElement
    const [file] = field.files ?? []
    field.value = ''
    if (!file) return
    const { samples, series } = await callApi(bringPast, { body: file }, { timeoutMs: 120_000 })
    notices.tell(`${counted(samples, 'sample')} of ${counted(series, 'series', 'series')} brought in.`)
    await load()
  })

const words = { sample: 'Single samples', second: 'Seconds', minute: 'Minutes', hour: 'Hours' }
const size = (bytes: number | null) => (bytes === null ? '—' : sizeText(bytes))
const daysText = (days: number | null) => (days === null ? 'for ever' : counted(days, 'day'))
useRowKeys(() => ({ n: session.can('configure') ? () => (open.value = 'new') : undefined, Escape: () => (open.value = null) }))
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/trends" class="trail">Trends ›</NuxtLink>
      <h1>What is recorded</h1>
      <ListFilter v-if="recordings.length" v-model="filter" label="Filter by path" />
      <span v-if="status" class="state"><PipeGlyph :flow="status.flow" /> {{ status.sentence }}</span>
      <span class="fill" />
      <Allowed role="configure">
        <BusyButton :busy="bringing" title="A table (CSV) with path, time and value" @click="file?.click()">Bring the past in …</BusyButton>
        <input
          ref="file"
          type="file"
          accept=".csv,text/csv"
          class="visually-hidden"
          tabindex="-1"
          aria-label="Bring the past in"
          @change="bring"
        />
        <v-btn variant="flat" @click="open = 'new'">New recording</v-btn>
      </Allowed>
    </div>
    <FaultNote v-if="notBrought" :fault="notBrought.why" class="gap" />
    <FaultNote v-if="problem" :fault="problem.why" class="gap" />
    <RecordingSheet
      v-if="open"
      :key="open === 'new' ? 'new' : open.id"
      :recording="open === 'new' ? null : open"
      @saved="saved"
      @close="open = null"
    >
      <v-btn v-if="open !== 'new'" color="break" @click="removing = open">Record it no more …</v-btn>
    </RecordingSheet>
    <EmptyState
      v-if="loaded && recordings.length === 0 && !open"
      title="Nothing is recorded yet"
      text="A recording is the path of a tag or a pattern, as in berth/**, with how its values are kept: every change, or at a fixed pace."
    >
      <Allowed role="configure"><v-btn variant="flat" @click="open = 'new'">Record tags</v-btn></Allowed>
    </EmptyState>
    <section v-if="recordings.length" class="sheet">
      <table class="rows" aria-label="Recordings">
        <thead>
          <tr>
            <th>Tags</th>
            <th>How</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="recording in shown"
            :key="recording.id"
            :class="{ opens: session.can('configure') }"
            tabindex="0"
            @click="session.can('configure') && (open = recording)"
            @keydown.enter="session.can('configure') && (open = recording)"
          >
            <td class="mono path">{{ recording.pattern }}</td>
            <td :class="{ quiet: recording.how.kind === 'not' }">{{ howText(recording.how) }}</td>
          </tr>
          <tr v-if="shown.length === 0">
            <td colspan="2" class="quiet">No recording goes by “{{ filter }}”.</td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="stock" class="sheet gap-above">
      <table class="rows" aria-label="What is kept">
        <thead>
          <tr>
            <th>Kept</th>
            <th>For</th>
            <th>Since</th>
            <th class="number">Rows</th>
            <th class="number">On disk now</th>
            <th class="number" title="At the pace of the last days, once it is as old as it is kept">Will come to</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in stock.shelves" :key="one.shelf">
            <td>{{ words[one.shelf] }}</td>
            <td>{{ daysText(stock.keeping[one.shelf]) }}</td>
            <td>{{ one.from === null ? '—' : dayText(one.from) }}</td>
            <td class="number">{{ Math.round(one.rows).toLocaleString('en-GB') }}</td>
            <td class="number">{{ size(one.bytes) }}</td>
            <td class="number">{{ size(one.expectedBytes) }}</td>
          </tr>
          <tr>
            <td><strong>All</strong></td>
            <td>{{ stock.keeping.mostGb === null ? 'no limit of size' : `at most ${stock.keeping.mostGb} GB` }}</td>
            <td></td>
            <td></td>
            <td class="number">{{ size(stock.bytes) }}</td>
            <td class="number">{{ size(stock.expectedBytes) }}</td>
          </tr>
        </tbody>
      </table>
      <Allowed role="administer"><KeepingForm :keeping="stock.keeping" @keep="keep" /></Allowed>
    </section>
    <p v-if="status && status.lost > 0" class="is-broken">
      {{ counted(status.lost, 'sample') }} lost since the start, for want of room or time.
    </p>
    <p v-if="status && status.doubtful > 0" class="is-late">
      {{ counted(status.doubtful, 'sample') }} came with times that cannot be, and have that of their arrival. The journal names the tags.
    </p>
    <AskDialog v-model="isRemoving" :title="`Record “${removing?.pattern}” no more?`" yes="End it" no="Go on" grave @yes="remove">
      <p>What was recorded stays until it is too old.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.path {
  overflow-wrap: anywhere;
}
.state {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.gap {
  margin-bottom: 10px;
}
.gap-above {
  margin-top: 14px;
}
</style>
