<script setup lang="ts">
import { duration } from '#core/text/duration'
import { valuesAt } from '#shared/api/history'
import { changeTrendSet, listTrendSets, makeTrendSet, removeTrendSet, showTrendSet } from '#shared/api/trendSets'
import type { RecordedSample } from '#shared/history'
import { trendContent, type TrendContent, type TrendSet } from '#shared/trendSet'
import { useTheme } from 'vuetify'
import { freeColour, lineColour } from '~/trends/colours'
import { lineOf, type Line } from '~/trends/lines'

/** How tags went: many series over one span, with cursors, beside an earlier span, kept under a name. */
const route = useRoute()
const notices = useNotices()
const live = useLive()
const theme = useTheme()
const isDark = computed(() => theme.current.value.dark)
const problem = shallowRef<Refused | null>(null)
const content = ref<TrendContent>(trendContent.parse({}))
const opened = shallowRef<TrendSet | null>(null)
const sets = shallowRef<TrendSet[]>([])
const columns = ref(1200)

const attempt = async (work: () => Promise<unknown>) => {
  try {
    await work()
    problem.value = null
  } catch (error) {
    problem.value = asRefused(error)
  }
}
const add = (id: number) => {
  const { series } = content.value
  if (series.some((one) => one.id === id)) return
  const colour = freeColour(series.map((one) => one.colour))
  content.value = { ...content.value, series: [...series, { id, colour, steps: null, axis: '', hidden: false }] }
}
const idsIn = (text: unknown) =>
  String(text ?? '')
    .split(',')
    .map(Number)
    .filter((id) => Number.isInteger(id) && id > 0)

/** What the address asks for: a set, or some tags. */
const open = async () => {
  const { set, tags } = route.query
  sets.value = (await callApi(listTrendSets, { query: { limit: 500 } })).items
  if (set) {
    opened.value = await callApi(showTrendSet, { params: { id: Number(set) } })
    content.value = structuredClone(opened.value.content)
    return
  }
  opened.value = null
  content.value = trendContent.parse({})
  for (const id of idsIn(tags)) add(id)
}
await attempt(open)
watch(
  () => [route.query.set, route.query.tags],
  () => void attempt(open),
)

const { pictures, beside, span, until, refused, busy } = useTrendPictures(
  () => content.value,
  () => columns.value,
)
const shown = computed<Line[]>(() =>
  content.value.series.flatMap((series) => {
    const [now, before] = [pictures.value.get(series.id), beside.value.get(series.id)]
    const shift = content.value.beside
    return [
      ...(now ? [lineOf(series, now, until.value, 0)] : []),
      ...(before && shift !== null ? [lineOf(series, before, until.value, shift)] : []),
    ]
  }),
)
const hidden = computed(() => new Set(content.value.series.filter((one) => one.hidden).map(({ id }) => id)))
const lines = computed(() => shown.value.filter(({ id }) => !hidden.value.has(id)))
/** Texts stand beside no axis. */
const axes = computed(() => [...new Set(lines.value.filter(({ runs }) => !runs).map(({ axis }) => axis))])
const chosenKey = ref<string | null>(null)
const chosen = computed(() => lines.value.find(({ key }) => key === chosenKey.value) ?? lines.value[0] ?? null)

const cursors = ref<(number | null)[]>([null, null])
const pointed = ref<number | null>(null)
/** One press sets the first cursor, the next one the second, and so on in turn. */
let nextCursor = 0
const press = (at: number) => {
  cursors.value = cursors.value.map((present, i) => (i === nextCursor ? at : present))
  nextCursor = 1 - nextCursor
}
const clearCursors = () => {
  cursors.value = [null, null]
  nextCursor = 0
}
const moveCursor = (by: number) => {
  const i = 1 - nextCursor
  const at = cursors.value[i]
  if (at == null) return
  const step = ((span.value.to - span.value.from) / columns.value) * by
  cursors.value = cursors.value.map((present, k) => (k === i ? at + step : present))
}
const exact = shallowRef<ReadonlyMap<number, readonly (RecordedSample | null)[]>>(new Map())
watch([cursors, () => content.value.series.map(({ id }) => id).join()], async () => {
  exact.value = new Map()
  const times = cursors.value.filter((at) => at !== null)
  const series = content.value.series.map(({ id }) => id)
  if (times.length === 0 || series.length === 0) return
  const asked = [...cursors.value]
  const answer = await callApi(valuesAt, { body: { series, times } }).catch(() => [])
  if (String(asked) !== String(cursors.value)) return
  const places = asked.flatMap((at, i) => (at === null ? [] : [i]))
  exact.value = new Map(
    answer.map(({ id, samples }) => {
      const placed: (RecordedSample | null)[] = []
      places.forEach((place, i) => (placed[place] = samples[i] ?? null))
      return [id, placed]
    }),
  )
})

const zoomed = (from: number, to: number) => {
  const length = Math.max(1000, Math.round(to - from))
  content.value = { ...content.value, span: { kind: 'fixed', from: Math.round(from), length } }
}
const followLive = () => (content.value = { ...content.value, span: { kind: 'live', length: content.value.span.length } })
const change = (id: number, fields: Partial<TrendContent['series'][number]>) =>
  (content.value = { ...content.value, series: content.value.series.map((one) => (one.id === id ? { ...one, ...fields } : one)) })
const takeOut = (id: number) => (content.value = { ...content.value, series: content.value.series.filter((one) => one.id !== id) })
const toggle = (id: number) => change(id, { hidden: !hidden.value.has(id) })

const isChanged = computed(() => opened.value !== null && JSON.stringify(opened.value.content) !== JSON.stringify(content.value))
const naming = ref(false)
const name = ref('')
const nameProblem = shallowRef<Refused | null>(null)
const askName = () => {
  name.value = ''
  nameProblem.value = null
  naming.value = true
}
const keepAs = async () => {
  try {
    const made = await callApi(makeTrendSet, { body: { name: name.value.trim(), content: content.value } })
    naming.value = false
    notices.tell(`“${made.name}” is kept.`)
    await navigateTo(`/trends?set=${made.id}`)
  } catch (error) {
    nameProblem.value = asRefused(error)
  }
}
const save = (fields: Partial<TrendSet> = {}) =>
  attempt(async () => {
    const { id, name: called, shared } = opened.value!
    opened.value = await callApi(changeTrendSet, { params: { id }, body: { name: called, shared, content: content.value, ...fields } })
    notices.tell(`“${called}” is kept as it is now.`)
  })
const removing = ref(false)
const remove = () =>
  attempt(async () => {
    removing.value = false
    await callApi(removeTrendSet, { params: { id: opened.value!.id } })
    await navigateTo('/trends')
  })

const picture = useTemplateRef<{ canvas: HTMLCanvasElement | null }>('picture')
const copyPicture = () =>
  attempt(async () => {
    const canvas = picture.value?.canvas
    const nameOf = ({ path, unit, colour }: Line) => ({ text: unit ? `${path}, ${unit}` : path, colour: lineColour(colour, isDark.value) })
    if (canvas) await copyCanvas(canvas, lines.value.map(nameOf))
    notices.tell('The picture is copied.')
  })

const shiftText = computed(() => (content.value.beside === null ? '' : `${duration(content.value.beside)} earlier`))
const words = computed(
  () => `${lines.value.length} series over ${duration(span.value.to - span.value.from)}; their values stand in the table below`,
)
useRowKeys(() => ({
  ArrowLeft: () => moveCursor(-1),
  ArrowRight: () => moveCursor(1),
  Escape: clearCursors,
}))
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <h1>{{ opened?.name ?? 'Trends' }}</h1>
      <TrendSpan v-model:span="content.span" v-model:beside="content.beside" />
      <span class="fill" />
      <div class="head-buttons">
        <v-btn v-if="content.span.kind === 'fixed'" @click="followLive">Follow live</v-btn>
        <TrendAxes v-if="axes.length" v-model:ranges="content.ranges" :axes="axes" />
        <v-btn v-if="lines.length" @click="copyPicture">Copy picture</v-btn>
        <TrendExport v-if="content.series.length" :series="content.series.map(({ id }) => id)" :span="span" />
        <v-btn v-if="content.series.length && isChanged && opened?.mine" @click="save()">Keep changes</v-btn>
        <v-btn v-if="content.series.length" @click="askName">Keep as …</v-btn>
        <v-menu>
          <template #activator="{ props: menu }"><v-btn v-bind="menu">Sets …</v-btn></template>
          <v-list density="compact" aria-label="Sets of trends">
            <v-list-item
              v-for="set in sets"
              :key="set.id"
              :to="`/trends?set=${set.id}`"
              :title="set.name"
              :subtitle="set.mine ? '' : set.owner"
            />
            <v-list-item v-if="sets.length === 0" title="None is kept yet" disabled />
            <v-divider />
            <v-list-item to="/trends/recording" title="What is recorded" />
            <template v-if="opened?.mine">
              <v-list-item
                :title="opened.shared ? 'Share it no more' : 'Share it by its address'"
                @click="save({ shared: !opened.shared })"
              />
              <v-list-item title="Remove this set …" @click="removing = true" />
            </template>
          </v-list>
        </v-menu>
      </div>
    </div>
    <FaultNote v-if="problem ?? refused" :fault="(problem ?? refused)!.why" class="gap" />
    <EmptyState
      v-if="content.series.length === 0"
      title="Nothing is drawn yet"
      :text="
        live.status && live.status.history.tags > 0
          ? 'Choose series by any part of their paths. Whatever is recorded can be drawn, from seconds to years.'
          : 'Nothing is recorded yet. Say which tags are, by their paths or by folders, and their pictures begin at once.'
      "
    >
      <AddSeries :taken="[]" @add="add" />
      <v-btn to="/trends/recording">What is recorded</v-btn>
    </EmptyState>
    <template v-else>
      <section class="sheet chart" :aria-busy="busy">
        <TrendCanvas
          ref="picture"
          :lines="lines"
          :from="span.from"
          :to="span.to"
          :cursors="cursors"
          :gaps="chosen?.gaps ?? []"
          :is-first="chosen?.picture.isFirst ?? false"
          :ranges="content.ranges"
          :words="words"
          @zoomed="zoomed"
          @pressed="press"
          @pointed="pointed = $event"
          @wide="columns = $event"
        />
      </section>
      <section class="sheet table">
        <TrendLegend
          :lines="shown"
          :hidden="hidden"
          :cursors="cursors"
          :pointed="pointed"
          :exact="exact"
          :chosen="chosen?.key ?? null"
          :shift-text="shiftText"
          @choose="chosenKey = $event"
          @hide="toggle"
          @remove="takeOut"
          @steps="(id, steps) => change(id, { steps })"
        />
      </section>
      <div class="below">
        <AddSeries :taken="content.series.map(({ id }) => id)" @add="add" />
        <span class="quiet hint">Wheel or drag zooms, Shift and drag moves, a press sets a cursor, ← → move it, Esc takes both away.</span>
      </div>
    </template>
    <AskDialog v-model="naming" title="Keep what is drawn" yes="Keep" no="Cancel" @yes="keepAs">
      <TextField
        v-model="name"
        label="Its name"
        autofocus
        :message="nameProblem?.fields[0]?.message ?? nameProblem?.why.what ?? ''"
        @keydown.enter="keepAs"
      />
    </AskDialog>
    <AskDialog v-model="removing" :title="`Remove “${opened?.name}”?`" yes="Remove" no="Keep" grave @yes="remove">
      <p>What was recorded stays.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.chart {
  flex: 1 1 300px;
  min-height: 260px;
  padding: 8px 10px 4px;
}
.table {
  margin-top: 12px;
  overflow: auto;
  flex: 0 1 auto;
  max-height: 40vh;
}
.below {
  display: flex;
  align-items: flex-start;
  gap: 20px;
  margin-top: 10px;
}
.hint {
  align-self: center;
  font-size: 12px;
}
.gap {
  margin-bottom: 10px;
}
</style>
