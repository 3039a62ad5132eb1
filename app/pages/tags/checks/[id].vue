<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { closeCheckSheet, listCheckPoints, makeCheckSheet, removeCheckSheet, reportCheckSheet, showCheckSheet } from '#shared/api/checks'
import { pointStates, stateText, type PointState } from '#core/checks/state'
import { namedText } from '#core/tags/valueNames'
import { addressOf } from '#shared/api/operation'
import { counted } from '#core/text/counted'
import { mostOfPage } from '#shared/api/lists'
import type { CheckDraft, CheckPoint, CheckSheet } from '#shared/checks'

/** Works a sheet off, point by point; others do at the same time. */
const route = useRoute()
const id = Number(route.params.id)
const live = useLive()
const notices = useNotices()
const { busy, refused, attempt } = useAttempt()
const sheet = shallowRef<(CheckSheet & { digestNow: string }) | null>(null)
const points = shallowRef<CheckPoint[]>([])

const load = async () => {
  try {
    sheet.value = await callApi(showCheckSheet, { params: { id } })
    const all: CheckPoint[] = []
    for (;;) {
      const { items, total } = await callApi(listCheckPoints, { params: { id }, query: { offset: all.length, limit: mostOfPage } })
      all.push(...items)
      if (items.length === 0 || all.length >= total) break
    }
    points.value = all
    refused.value = null
  } catch (error) {
    // without a connection it goes on with what there is
    if (!sheet.value) refused.value = asRefused(error)
  }
}
await load()
const everyMs = 4000
const timer = setInterval(() => void load(), everyMs)
onUnmounted(() => clearInterval(timer))
watch(() => live.changes, load)

const queue = useCheckQueue(id, () => void load())
/** How a point is, with what is on its way. */
const shown = computed(() => {
  const own = new Map(queue.waiting.value.map((draft) => [draft.tag, draft]))
  return points.value.map((point) => ({ ...point, waits: own.get(point.tag) ?? null, state: own.get(point.tag)?.outcome ?? point.state }))
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

const chosenTag = ref<number | null>(null)
const chosen = computed(() => shown.value.find(({ tag }) => tag === chosenTag.value) ?? null)
const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: rows.value.length, getScrollElement: () => scroller.value, estimateSize: () => 34, overscan: 6 })),
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
/** Which is left, after the one that was just checked. */
const next = () => {
  const order = rows.value
  const at = order.findIndex(({ tag }) => tag === chosenTag.value)
  const left = [...order.slice(at + 1), ...order.slice(0, Math.max(0, at))].find(({ state }) => state === 'unchecked' || state === 'again')
  chosenTag.value = left?.tag ?? null
}
const check = (draft: CheckDraft) => queue.add(draft)
useRowKeys(() => ({ ArrowDown: () => step(1), ArrowUp: () => step(-1), Escape: () => (chosenTag.value = null) }))

const asking = ref<'close' | 'remove' | null>(null)
const isAsking = computed({ get: () => asking.value !== null, set: (value) => !value && (asking.value = null) })
const close = () =>
  attempt(async () => {
    const remove = asking.value === 'remove'
    asking.value = null
    if (remove) {
      await callApi(removeCheckSheet, { params: { id } })
      await navigateTo('/tags/checks')
    } else {
      await callApi(closeCheckSheet, { params: { id } })
      notices.tell('Closed: nothing is added any more.')
      await load()
    }
  })
const again = () =>
  attempt(async () => {
    const name = `${sheet.value!.name.slice(0, 100)}, again`
    const made = await callApi(makeCheckSheet, { body: { name, against: sheet.value!.against, from: id } })
    await navigateTo(`/tags/checks/${made.id}`)
  })
const isClosed = computed(() => sheet.value?.closedAt !== null)
const isTouched = computed(() => isClosed.value && sheet.value !== null && sheet.value.digest !== sheet.value.digestNow)
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
    <template v-if="sheet">
      <div class="page-head">
        <h1 class="cut" :title="sheet.name">{{ sheet.name }}</h1>
        <span class="quiet">{{ sheet.against }}</span>
        <span class="fill" />
        <v-btn to="/tags/checks">All</v-btn>
        <v-btn :href="`/api${addressOf(reportCheckSheet, { params: { id } })}`" download>To print</v-btn>
        <Allowed v-if="!isClosed" role="configure"><BusyButton :busy="busy" @click="asking = 'close'">Close…</BusyButton></Allowed>
        <Allowed v-if="isClosed" role="operate"><BusyButton :busy="busy" @click="again">Check the rest again</BusyButton></Allowed>
        <Allowed role="configure"><v-btn color="break" @click="asking = 'remove'">Remove…</v-btn></Allowed>
      </div>
      <p v-if="queue.waiting.value.length > 0" class="is-late" role="status">
        {{ counted(queue.waiting.value.length, 'check') }} on the way{{
          queue.isAway.value ? ': the site does not answer. They are kept in this browser and go by themselves.' : '.'
        }}
      </p>
      <FaultNote v-if="queue.refused.value" :fault="queue.refused.value.why" mild />
      <p v-if="isTouched" class="is-broken">Something of this sheet was changed since it was closed: its digest is another one.</p>
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
            :style="{ transform: `translateY(${item.start}px)` }"
            @click="chosenTag = rows[item.index]!.tag"
            @keydown.enter="chosenTag = rows[item.index]!.tag"
          >
            <span role="cell" class="mono cut" :title="rows[item.index]!.path">{{ rows[item.index]!.path }}</span>
            <span role="cell" class="mono cut">{{ valueOf(rows[item.index]!) }}</span>
            <span role="cell" class="state" :class="rows[item.index]!.state"
              >{{ stateText[rows[item.index]!.state] }}{{ rows[item.index]!.waits ? ', on the way' : '' }}</span
            >
            <span role="cell" class="quiet cut">{{ rows[item.index]!.last?.who ?? '' }}</span>
            <span role="cell" class="quiet cut" :title="rows[item.index]!.last?.remark ?? ''">{{
              rows[item.index]!.last?.remark ?? ''
            }}</span>
          </div>
        </div>
        <p v-if="rows.length === 0" class="quiet none">No point is so.</p>
      </div>
    </template>
    <template #beside>
      <SidePanel v-if="chosen" label="Point" :above="sheet!.name" :name="chosen.path" mono @close="chosenTag = null">
        <CheckForm :sheet="id" :point="chosen" :closed="isClosed" @check="check" @next="next" />
      </SidePanel>
    </template>
    <AskDialog
      v-model="isAsking"
      :title="asking === 'remove' ? `Remove “${sheet?.name}”?` : `Close “${sheet?.name}”?`"
      :yes="asking === 'remove' ? 'Remove it' : 'Close it'"
      no="Not yet"
      :grave="asking === 'remove'"
      @yes="close"
    >
      <p v-if="asking === 'remove'">With all that was checked. That cannot be taken back.</p>
      <p v-else>
        Nothing is added any more, and the digest of all that was checked stands fast. What is changed later is checked on another sheet.
      </p>
    </AskDialog>
  </SplitPage>
</template>

<style scoped>
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
}
.slot {
  position: absolute;
  inset: 0 0 auto 0;
  height: 34px;
  display: grid;
  grid-template-columns: minmax(200px, 3fr) minmax(110px, 1.4fr) minmax(120px, 1.2fr) minmax(80px, 1fr) minmax(100px, 2fr);
  gap: 12px;
  align-items: center;
  padding: 0 12px;
  border-bottom: 1px solid var(--line-soft);
  cursor: pointer;
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
