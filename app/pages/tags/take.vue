<script setup lang="ts">
import { makeTags } from '#shared/api/tags'
import { useDebounceFn } from '@vueuse/core'
import { protocolOf } from '#core/links/registry'
import { namingStyles, type NamingStyle } from '#core/tags/naming'
import { counted } from '#core/text/counted'
import type { BrowsedNode, Place } from '#shared/browse'

const route = useRoute()
const lists = useLists()
const notices = useNotices()
await lists.whenLoaded()
const linkId = Number(route.query.link)
const link = computed(() => lists.links.find(({ id }) => id === linkId) ?? null)
/** Where messages come by themselves, what is shown is what was heard: the first column listens to a filter. */
const listens = computed(() => link.value !== null && protocolOf(link.value.kind).capabilities.messages)
const isTold = computed(() => link.value !== null && protocolOf(link.value.kind).capabilities.watch)
const filter = ref(typeof route.query.topic === 'string' ? route.query.topic : '#')
const places = usePlaces(linkId)
const tray = useTray(linkId)
const browsed = usePlaceColumns({ children: places.children, listens: () => listens.value })
const { columns, last } = browsed
const lookedUp = useLongFind(linkId)
const { found, looked, failed, working, stop } = lookedUp
const strip = ref<HTMLElement | null>(null)
const notMade = shallowRef<Refused | null>(null)
const problem = computed(() => notMade.value ?? lookedUp.problem.value ?? browsed.problem.value ?? places.refused.value)

const open = async (at: number, node: BrowsedNode) => {
  await browsed.open(at, node)
  await nextTick()
  strip.value?.scrollTo({ left: strip.value.scrollWidth })
}
const into = (at: number) => {
  const list = strip.value?.querySelectorAll<HTMLElement>('[data-column]')
  list?.[at]?.focus()
}

const visibleBy = new Map<number, readonly Place[]>()
const showing = (at: number, nodes: readonly BrowsedNode[]) => {
  visibleBy.set(at, nodes)
  const all = [...visibleBy].filter(([index]) => index < columns.value.length).flatMap(([, shown]) => shown)
  places.show(all)
}

/** A topic may set a bridge off, as well as become a tag. */
const bridgeOf = ({ kind, address }: BrowsedNode) =>
  listens.value && kind !== 'object' ? `/bridges/new?link=${linkId}&topic=${encodeURIComponent(address)}` : ''

const compareSoon = useDebounceFn(() => tray.compare().catch(() => {}), 300)
watch([() => tray.picked.size, tray.below, tray.style, tray.leaveOut, () => tray.own.size], () => void compareSoon())

const pick = async (names: readonly string[], place: Place) => {
  const key = placeKey(place)
  if (tray.picked.has(key)) return tray.remove(key)
  if (!places.of(place)) await places.ask([place])
  const details = places.of(place)
  if (details) tray.add(names, details)
}

const text = ref('')
const find = () => lookedUp.find(text.value, (all) => places.show(all.slice(0, 100)))
const findSoon = useDebounceFn(find, 350)
const takeBranch = (place: Place, names: readonly string[]) =>
  lookedUp.takeBranch(place, (points) => {
    for (const point of points) tray.add([...names, ...point.names], point.details)
  })

const busy = ref(false)
const make = async () => {
  busy.value = true
  notMade.value = null
  try {
    const made = await callApi(makeTags, { body: { tags: tray.drafts.value } }, { timeoutMs: 120_000 })
    notices.tell(`${counted(made.length, 'tag')} made.`, made[0]?.revision)
    tray.clear()
    void navigateTo(`/tags?link=${linkId}`)
  } catch (error) {
    notMade.value = asRefused(error)
    void compareSoon()
  } finally {
    busy.value = false
  }
}

const styles = (Object.keys(namingStyles) as NamingStyle[]).map((value) => ({ value, title: namingStyles[value] }))
const commonNames = computed(() => [...tray.picked.values()][0]?.names.slice(0, -1) ?? [])
const depths = computed(() => [
  { value: null, title: 'what all have in common' },
  ...[0, ...commonNames.value.map((_, i) => i + 1)].map((depth) => ({
    value: depth as number | null,
    title: depth === 0 ? 'nothing' : commonNames.value.slice(0, depth).join(' / '),
  })),
])
const blocked = computed(() => tray.rows.value.filter((row) => row.blocked).length)

const { question } = useLeaveGuard(() => tray.picked.size > 0)
const begin = async () => {
  if (!link.value) return
  const listened = filter.value.trim() || '#'
  if (listens.value) await browsed.begin({ address: '', member: listened }, `heard on ${listened}`)
  else await browsed.begin({ address: '', member: '' }, link.value.name)
  // somebody came for one topic: the way to it opens by itself
  if (route.query.topic) await browsed.openOnly()
}
onMounted(begin)

/** More is heard by and by. */
useRepeated(async () => {
  if (listens.value && !document.hidden) await browsed.again()
}, 3000)
</script>

<template>
  <div class="page take">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>Take points from {{ link?.name ?? 'a link' }}</h1>
      <v-text-field
        v-model="text"
        data-filter
        class="filter"
        placeholder="Find by name, or by path with /"
        aria-label="Find by name or path"
        clearable
        @update:model-value="findSoon"
        @keydown.enter="find"
      />
      <v-text-field
        v-if="listens"
        v-model="filter"
        class="filter mono"
        aria-label="Listen to the filter"
        prefix="listen to"
        @change="begin"
        @keydown.enter="begin"
      />
      <span v-if="working" class="quiet" role="status"
        >{{ working === 'search' ? 'looking' : 'taking' }}… {{ looked.toLocaleString('en-GB') }} looked at
        <v-btn height="26" class="stop" @click="stop">Stop</v-btn></span
      >
      <span class="fill" />
      <v-btn to="/tags">Cancel</v-btn>
      <BusyButton variant="flat" :busy="busy" :disabled="tray.drafts.value.length === 0" @click="make"
        >Make {{ counted(tray.drafts.value.length, 'tag') }}</BusyButton
      >
    </div>
    <FailedPlaces :failed="failed" />
    <FaultNote v-if="problem" :fault="problem.why" class="gap">
      <v-btn @click="browsed.load(columns.length - 1)">Ask again</v-btn>
      <v-btn :to="`/links/${linkId}`">See the link</v-btn>
    </FaultNote>
    <section ref="strip" class="sheet strip">
      <div v-if="found" class="found" role="listbox" aria-label="Found">
        <p v-if="found.length === 0 && !working" class="quiet">
          Nothing there goes by “{{ text }}”; {{ looked.toLocaleString('en-GB') }} looked at.
        </p>
        <button
          v-for="place in found"
          :key="placeKey(place)"
          type="button"
          class="hit"
          role="option"
          :aria-selected="tray.picked.has(placeKey(place))"
          @click="place.kind === 'variable' ? pick(place.names, place) : takeBranch(place, place.names)"
        >
          <span class="box" :class="{ picked: tray.picked.has(placeKey(place)) }" />
          <span class="quiet">{{ place.names.slice(0, -1).join(' / ') }} /</span>
          <strong>{{ place.name }}</strong>
          <span class="mono quiet">{{ places.of(place)?.text }} {{ places.of(place)?.unit }}</span>
        </button>
      </div>
      <template v-else>
        <BrowseColumn
          v-for="(column, at) in columns"
          :key="`${at} ${placeKey(column.place)}`"
          :title="column.title"
          :children="column.children"
          :open="column.open && placeKey(column.open)"
          :details-of="places.of"
          :is-picked="(node: Place) => tray.picked.has(placeKey(node))"
          @visible="showing(at, $event)"
          @open="open(at, $event)"
          @pick="pick([...column.names, $event.name], $event)"
          @back="into(at - 1)"
          @into="into(at + 1)"
        />
        <PlacePanel
          v-if="last"
          :node="last.node"
          :names="last.names"
          :details="places.of(last.node)"
          :picked="tray.picked.has(placeKey(last.node))"
          :bridge="bridgeOf(last.node)"
          @pick="pick(last.names, last.node)"
          @branch="takeBranch(last.node, last.names)"
        />
        <p v-else class="quiet hint">
          {{ listens ? 'Topics appear as messages come.' : '' }} Open a place to see what is in it. Tick points to take them; nothing is
          made before you say so.
        </p>
      </template>
    </section>
    <div class="options">
      <strong>To become tags</strong>
      <span class="quiet"
        >{{ counted(tray.picked.size, 'point') }}{{ blocked ? `, ${blocked} left out for the reason beside it` : '' }}</span
      >
      <span class="fill" />
      <TextField v-model="tray.below.value" label="Below the folder" mono placeholder="berth/1/arm" class="below" />
      <ChoiceField v-model="tray.leaveOut.value" label="Left out in front" :choices="depths" class="choice" />
      <ChoiceField v-model="tray.style.value" label="Names" :choices="styles" class="choice" />
      <NumberField
        v-if="!listens"
        v-model="tray.interval.value"
        :label="isTold ? 'Notified every' : 'Read every'"
        unit="ms"
        hint=""
        class="interval"
      />
    </div>
    <TrayTable
      :rows="tray.rows.value"
      :text-of="(row) => (places.of(row.details) ?? row.details).text"
      @rename="(key, path) => tray.own.set(key, path)"
      @remove="tray.remove"
    />
    <LeaveDialog v-model="question" />
  </div>
</template>

<style scoped>
.take {
  display: flex;
  flex-direction: column;
  height: calc(100vh - 118px);
}
.filter {
  max-width: 280px;
}
.stop {
  margin-left: 6px;
}
.strip {
  display: flex;
  flex: 1.4;
  min-height: 220px;
  overflow-x: auto;
  overflow-y: hidden;
}
.hint {
  padding: 16px;
}
.found {
  flex: 1;
  overflow-y: auto;
  padding: 6px 0;
}
.found p {
  padding: 6px 14px;
}
.hit {
  display: flex;
  align-items: center;
  gap: 8px;
  width: 100%;
  padding: 4px 14px;
  text-align: left;
}
.hit:hover {
  background: var(--tint);
}
.hit strong {
  font-weight: 600;
}
.box {
  width: 12px;
  height: 12px;
  border: 1px solid var(--primary);
  border-radius: 3px;
}
.box.picked {
  background: var(--primary);
}
.options {
  display: flex;
  align-items: end;
  gap: 10px;
  margin: 10px 0 8px;
}
.options strong {
  font-weight: 600;
}
.options > strong,
.options > .quiet {
  padding-bottom: 8px;
}
.fill {
  flex: 1;
}
.below {
  width: 180px;
}
.choice {
  width: 190px;
}
.interval {
  width: 110px;
}
.gap {
  margin-bottom: 10px;
}
</style>
