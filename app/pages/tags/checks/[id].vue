<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { changeCheckSheet, closeCheckSheet, makeCheckSheet, printCheckSheet, removeCheckSheet, reportCheckSheet } from '#shared/api/checks'
import { pointStates, stateText, type PointState } from '#core/checks/state'
import { namedText } from '#core/tags/valueNames'
import { addressOf } from '#shared/api/operation'
import { counted } from '#core/text/counted'
import type { CheckDraft, CheckPoint } from '#shared/checks'

/** Works a sheet off, point by point; others do at the same time. */
const route = useRoute()
const id = Number(route.params.id)
const live = useLive()
const notices = useNotices()
const { busy, refused: notDone, attempt } = useAttempt()
const chosenTag = ref<number | null>(null)
const { sheet, points, people, refused, isAway, look, loadAgain } = useCheckSheet(id, () => chosenTag.value)
watch(() => live.changes, look)
useOffline(loadAgain)

const queue = useCheckQueue(id, () => void look())
/** How a point is, with what is on its way. */
const shown = computed(() => {
  const own = new Map(queue.waiting.value.map((draft) => [draft.tag, draft]))
  const there = new Map(people.value.map(({ who, tag }) => [tag, who]))
  return points.value.map((point) => ({
    ...{ ...point, waits: own.has(point.tag), state: own.get(point.tag)?.outcome ?? point.state },
    ...{ by: there.get(point.tag) ?? null, note: own.get(point.tag)?.remark ?? point.last?.remark ?? '' },
  }))
})
const only = ref<PointState | null>(null)
const find = ref<string | null>('')
const rows = computed(() =>
  shown.value
    .filter(({ state }) => only.value === null || state === only.value)
    .filter(fitting(find.value ?? '', ({ path, source }) => `${path} ${source}`)),
)
const counts = computed(() => {
  const all = new Map<PointState, number>()
  for (const { state } of shown.value) all.set(state, (all.get(state) ?? 0) + 1)
  return pointStates.flatMap((state) => (all.get(state) ? [{ state, count: all.get(state)! }] : []))
})

const chosen = computed(() => shown.value.find(({ tag }) => tag === chosenTag.value) ?? null)
/** For fingers. */
const rowHeight = matchMedia('(pointer: coarse)').matches ? 46 : 34
const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: rows.value.length, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 6 })),
)
const visible = computed(() => virtual.value.getVirtualItems().filter(({ index }) => rows.value[index]))
watch(
  () => [...visible.value.map(({ index }) => rows.value[index]!.tag), ...(chosenTag.value === null ? [] : [chosenTag.value])],
  (ids) => live.show('checks', ids),
  { immediate: true },
)
onUnmounted(() => live.show('checks', []))

const step = (by: number) => {
  const at = rows.value.findIndex(({ tag }) => tag === chosenTag.value)
  const to = Math.max(0, Math.min(rows.value.length - 1, at + by))
  chosenTag.value = rows.value[to]?.tag ?? null
  if (rows.value.length > 0) virtual.value.scrollToIndex(to)
}
/** Which is left, after the one that was just checked; those at which somebody else is come last. */
const next = () => {
  const order = rows.value
  const at = order.findIndex(({ tag }) => tag === chosenTag.value)
  const left = [...order.slice(at + 1), ...order.slice(0, Math.max(0, at))].filter(
    ({ state }) => state === 'unchecked' || state === 'again',
  )
  chosenTag.value = (left.find(({ by }) => by === null) ?? left[0])?.tag ?? null
}
const check = (draft: CheckDraft) => queue.add(draft)
useRowKeys(() => ({ ArrowDown: () => step(1), ArrowUp: () => step(-1), Escape: () => (chosenTag.value = null) }))

type Question = 'close' | 'remove' | 'take off'
const asking = ref<Question | null>(null)
const isAsking = computed({ get: () => asking.value !== null, set: (value) => !value && (asking.value = null) })
const questions: Record<Question, () => { title: string; yes: string; text: string; done: () => Promise<unknown> }> = {
  close: () => ({
    title: `Close “${sheet.value?.name}”?`,
    yes: 'Close it',
    text: 'Nothing is added any more, and the digest of all that was checked stands fast. What is changed later is checked on another sheet.',
    done: () => callApi(closeCheckSheet, { params: { id } }).then(() => notices.tell('Closed: nothing is added any more.')),
  }),
  remove: () => ({
    ...{ title: `Remove “${sheet.value?.name}”?`, yes: 'Remove it', text: 'With all that was checked. That cannot be taken back.' },
    done: () => callApi(removeCheckSheet, { params: { id } }).then(async () => void (await navigateTo('/tags/checks'))),
  }),
  'take off': () => ({
    ...{ title: 'Take the point off this sheet?', yes: 'Take it off' },
    text: `${chosen.value?.path}: what was checked of it on this sheet goes as well.`,
    done: () => change({ remove: [chosenTag.value!] }).then(() => (chosenTag.value = null)),
  }),
}
const question = computed(() => asking.value && questions[asking.value]())
const answer = () =>
  attempt(async () => {
    const { done } = question.value!
    const isGone = asking.value === 'remove'
    asking.value = null
    await done()
    if (!isGone) await loadAgain()
  })
const change = ({ add = [], remove = [] }: { add?: string[]; remove?: number[] }) => {
  const { name, against, note } = sheet.value!
  return callApi(changeCheckSheet, { params: { id }, body: { name, against, note, add, remove } })
}
const adding = ref<string | null>(null)
const add = () =>
  attempt(async () => {
    await change({ add: listedNames(adding.value!) })
    adding.value = null
    await loadAgain()
  })
const again = () =>
  attempt(async () => {
    const name = `${sheet.value!.name.slice(0, 100)}, again`
    const made = await callApi(makeCheckSheet, { body: { name, against: sheet.value!.against, from: id } })
    await navigateTo(`/tags/checks/${made.id}`)
  })
const isClosed = computed(() => sheet.value?.closedAt !== null)
const isTouched = computed(() => isClosed.value && sheet.value !== null && sheet.value.digest !== sheet.value.digestNow)
const touchedText = computed(() => {
  const all = sheet.value?.touched ?? []
  const told = all.slice(0, 5).map(({ what, path }) => `${path ?? 'the sheet itself'} ${what}`)
  return `${told.join(', ')}${all.length > told.length ? ` and ${counted(all.length - told.length, 'more')}` : ''}`
})
const reports = [
  { title: 'PDF', href: `/api${addressOf(printCheckSheet, { params: { id } })}` },
  { title: 'HTML', href: `/api${addressOf(reportCheckSheet, { params: { id } })}` },
]
const valueOf = ({ tag, names, type, unit }: CheckPoint) => {
  const value = live.values.get(tag)
  return value ? `${namedText(value.value, names, type)} ${unit}`.trim() : ''
}
</script>

<template>
  <SplitPage :open="chosen !== null">
    <div v-if="!sheet" class="page-head">
      <h1>Check sheet</h1>
      <span class="fill" />
      <v-btn to="/tags/checks">All sheets</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <FaultNote v-if="notDone" :fault="notDone.why" mild />
    <template v-if="sheet">
      <div class="page-head">
        <h1 class="cut" :title="sheet.name">{{ sheet.name }}</h1>
        <span class="quiet cut" :title="sheet.against">{{ sheet.against }}</span>
        <span class="fill" />
        <v-btn to="/tags/checks">All sheets</v-btn>
        <v-menu location="bottom end">
          <template #activator="{ props: activator }"><v-btn v-bind="activator">Take along</v-btn></template>
          <div class="sheet menu">
            <v-btn v-for="{ title, href } in reports" :key="title" :href="href" download>To print, as {{ title }}</v-btn>
          </div>
        </v-menu>
        <v-menu v-if="!isClosed" location="bottom end">
          <template #activator="{ props: activator }"><v-btn v-bind="activator">Change</v-btn></template>
          <div class="sheet menu">
            <Allowed role="operate"><v-btn @click="adding = ''">Bring points onto it…</v-btn></Allowed>
            <Allowed role="configure"><v-btn @click="asking = 'close'">Close…</v-btn></Allowed>
            <Allowed role="configure"><v-btn color="break" @click="asking = 'remove'">Remove…</v-btn></Allowed>
          </div>
        </v-menu>
        <template v-else>
          <Allowed role="operate"><BusyButton :busy="busy" @click="again">Check the rest again</BusyButton></Allowed>
          <Allowed role="configure"><v-btn color="break" @click="asking = 'remove'">Remove…</v-btn></Allowed>
        </template>
      </div>
      <form v-if="adding !== null" class="adding" @submit.prevent="add">
        <TextField v-model="adding" label="Tags, or folders with all that lies in them" placeholder="berth/1, berth/2/meter" />
        <BusyButton type="submit" variant="flat" color="primary" :busy="busy" :disabled="adding.trim() === ''">Bring onto it</BusyButton>
        <v-btn @click="adding = null">Not now</v-btn>
      </form>
      <p v-if="isAway && queue.waiting.value.length === 0" class="is-late" role="status">
        The site does not answer. You can go on: what you check is kept in this browser, and goes by itself.
      </p>
      <p v-if="queue.waiting.value.length > 0" class="is-late" role="status">
        {{ counted(queue.waiting.value.length, 'check') }} on the way{{
          queue.isAway.value ? ': the site does not answer. They are kept in this browser and go by themselves.' : '.'
        }}
      </p>
      <FaultNote v-if="queue.refused.value" :fault="queue.refused.value.why" mild />
      <p v-if="queue.others.value.length > 0" class="is-late">
        Checks of {{ queue.others.value.join(', ') }} wait in this browser: they go when they are signed in here again.
      </p>
      <p v-if="isTouched" class="is-broken">
        Something was changed since this sheet was closed: its digest is another one{{ touchedText === '' ? '.' : `. ${touchedText}.` }}
      </p>
      <div class="filters">
        <button
          v-for="{ state, count } in counts"
          :key="state"
          type="button"
          class="chip"
          :class="[state, { chosen: only === state }]"
          :aria-pressed="only === state"
          @click="only = only === state ? null : state"
        >
          {{ count.toLocaleString('en-GB') }} {{ stateText[state] }}
        </button>
        <span class="fill" />
        <ListFilter v-model="find" label="Filter by path" />
      </div>
      <div ref="scroller" class="sheet list" role="table" aria-label="Points">
        <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }" role="rowgroup">
          <div
            v-for="item in visible"
            :key="rows[item.index]!.tag"
            class="slot"
            :class="{ chosen: rows[item.index]!.tag === chosenTag }"
            role="row"
            tabindex="0"
            :style="{ transform: `translateY(${item.start}px)`, height: `${rowHeight}px` }"
            @click="chosenTag = rows[item.index]!.tag"
            @keydown.enter="chosenTag = rows[item.index]!.tag"
          >
            <span role="cell" class="mono cut" :title="rows[item.index]!.path">{{ rows[item.index]!.path }}</span>
            <span role="cell" class="mono cut">{{ valueOf(rows[item.index]!) }}</span>
            <span role="cell" class="state cut" :class="rows[item.index]!.state"
              >{{ stateText[rows[item.index]!.state] }}{{ rows[item.index]!.waits ? ', on the way' : '' }}</span
            >
            <span role="cell" class="quiet cut">{{
              rows[item.index]!.by ? `${rows[item.index]!.by} is at it` : (rows[item.index]!.last?.who ?? '')
            }}</span>
            <span role="cell" class="quiet cut" :title="rows[item.index]!.note">{{ rows[item.index]!.note }}</span>
          </div>
        </div>
        <p v-if="rows.length === 0" class="quiet none">No point is so.</p>
      </div>
    </template>
    <template #beside>
      <SidePanel v-if="chosen" label="Point" :above="sheet!.name" :name="chosen.path" mono @close="chosenTag = null">
        <p v-if="chosen.by" class="is-late">{{ chosen.by }} is at this point as well.</p>
        <CheckForm :sheet="id" :point="chosen" :closed="isClosed" @check="check" @next="next" @remove="asking = 'take off'" />
      </SidePanel>
    </template>
    <AskDialog
      v-model="isAsking"
      :title="question?.title ?? ''"
      :yes="question?.yes ?? ''"
      no="Not yet"
      :grave="asking !== 'close'"
      @yes="answer"
    >
      <p>{{ question?.text }}</p>
    </AskDialog>
  </SplitPage>
</template>

<style scoped>
.menu {
  display: grid;
  gap: 6px;
  padding: 10px 12px;
}
.adding {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 8px;
  align-items: end;
  margin: 4px 0 8px;
}
.filters {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
  flex-wrap: wrap;
}
.chip {
  padding: 3px 10px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--surface);
}
.chip.chosen {
  border-color: var(--ink);
  font-weight: 600;
}
.list {
  flex: 1;
  min-height: 0;
  overflow: auto;
  container-type: inline-size;
}
.slot {
  position: absolute;
  inset: 0 0 auto 0;
  display: grid;
  grid-template-columns: minmax(200px, 3fr) minmax(110px, 1.4fr) minmax(120px, 1.2fr) minmax(80px, 1fr) minmax(100px, 2fr);
  gap: 12px;
  align-items: center;
  padding: 0 12px;
  border-bottom: 1px solid var(--line-soft);
  cursor: pointer;
}
@container (max-width: 640px) {
  .slot {
    grid-template-columns: minmax(0, 3fr) minmax(0, 1.4fr) minmax(0, 1.6fr);
  }
  .slot > :nth-child(n + 4) {
    display: none;
  }
}
.slot:hover,
.slot:focus-visible,
.slot.chosen {
  background: var(--tint);
  outline: none;
}
.cut {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.state.bad,
.state.gone {
  color: var(--break);
}
.state.open,
.state.again {
  color: var(--copper);
}
.state.good {
  color: var(--flow);
}
.none {
  padding: 12px;
}
</style>
