<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useNow } from '@vueuse/core'
import { listTags } from '#shared/api/tags'
import { showWatchList } from '#shared/api/watch'
import { counted } from '#core/text/counted'
import type { Tag } from '#shared/tags'
import { mostWatched } from '#shared/watch'

/** Tags that somebody watches: what they have, how fast they change, and how they went in the last minutes. */
const rowHeight = 30
const live = useLive()
const watching = useWatching()
const now = useNow({ interval: 500 })

const problem = shallowRef<Refused | null>(null)
const attempt = async (work: () => Promise<unknown>) => {
  try {
    await work()
    problem.value = null
  } catch (error) {
    problem.value = asRefused(error)
  }
}
await attempt(() => watching.load())

const open = computed(() => watching.lists.find(({ id }) => id === watching.current) ?? watching.own[0] ?? watching.lists[0] ?? null)
const tags = shallowRef<Tag[]>([])
let turn = 0
const loadTags = async () => {
  const mine = ++turn
  const id = open.value?.id
  if (id === undefined) return void (tags.value = [])
  await attempt(async () => {
    const { watched } = await callApi(showWatchList, { params: { id } })
    if (mine === turn) tags.value = watched
  })
}
watch([() => JSON.stringify([open.value?.id, open.value?.tags]), () => live.changes], () => void loadTags(), { immediate: true })

const ids = computed(() => tags.value.map(({ id }) => id))
watch(ids, (all) => live.show('watch', all), { immediate: true })
onUnmounted(() => live.show('watch', []))
const { trends, refused } = useTrends(() => ids.value)

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: tags.value.length, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 4 })),
)
const rows = computed(() => virtual.value.getVirtualItems().filter(({ index }) => tags.value[index]))

const chosenId = ref<number | null>(null)
const chosen = computed(() => tags.value.find(({ id }) => id === chosenId.value) ?? null)

const adding = ref('')
const addMessage = ref('')
/** A path, or a folder: then all that lies in it. */
const add = async () => {
  const path = adding.value.trim().replace(/\/$/, '')
  if (path === '') return
  await attempt(async () => {
    const one = (await callApi(listTags, { query: { find: path, limit: 100 } })).items.filter((tag) => tag.path === path)
    const found = one.length > 0 ? one : (await callApi(listTags, { query: { below: path, limit: mostWatched } })).items
    addMessage.value = found.length === 0 ? 'There is no such tag, and no such folder.' : ''
    if (found.length === 0) return
    if (!watching.target) await watching.make('My watch list')
    const into = open.value?.mine ? open.value : watching.target!
    await watching.alter(into.id, { add: found.map(({ id }) => id) })
    adding.value = ''
  })
}
watch(adding, () => (addMessage.value = ''))

const takeOff = (tag: Tag) => attempt(() => watching.alter(open.value!.id, { remove: [tag.id] }))
const move = (by: number) =>
  attempt(async () => {
    const list = open.value!
    const order = [...ids.value]
    const at = order.indexOf(chosenId.value!)
    const to = at + by
    if (at < 0 || to < 0 || to >= order.length) return
    order.splice(to, 0, ...order.splice(at, 1))
    await watching.change({ ...list, tags: order })
  })

const naming = ref<'new' | 'name' | 'copy' | null>(null)
const name = ref('')
const nameProblem = shallowRef<Refused | null>(null)
const ask = (what: 'new' | 'name' | 'copy') => {
  naming.value = what
  nameProblem.value = null
  name.value = what === 'new' ? '' : open.value!.name
}
const isNaming = computed({ get: () => naming.value !== null, set: (value) => !value && (naming.value = null) })
const nameTitle = computed(
  () => ({ new: 'A new watch list', name: 'Call it otherwise', copy: 'A list of your own like this one' })[naming.value ?? 'new'],
)
const saveName = async () => {
  try {
    if (naming.value === 'name') await watching.change({ ...open.value!, name: name.value.trim() })
    else await watching.make(name.value.trim(), naming.value === 'copy' ? ids.value : [])
    naming.value = null
  } catch (error) {
    nameProblem.value = asRefused(error)
  }
}
const removing = ref(false)
const removeList = () =>
  attempt(async () => {
    removing.value = false
    await watching.remove(open.value!.id)
  })
const share = (shared: boolean | null) => attempt(() => watching.change({ ...open.value!, tags: ids.value, shared: shared === true }))

const removeTag = useTagRemoval(() => (chosenId.value = null))

const step = (by: number) => {
  const at = Math.max(0, Math.min(tags.value.length - 1, ids.value.indexOf(chosenId.value ?? -1) + by))
  chosenId.value = tags.value[at]?.id ?? null
  virtual.value.scrollToIndex(at)
}
useRowKeys(() => ({
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  Escape: () => (chosenId.value = null),
  ...(chosen.value && open.value?.mine
    ? { 'Alt ArrowDown': () => move(1), 'Alt ArrowUp': () => move(-1), Delete: () => takeOff(chosen.value!) }
    : {}),
}))
</script>

<template>
  <SplitPage class="watch" :open="chosen !== null">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>Watch lists</h1>
      <span class="fill" />
      <template v-if="open?.mine">
        <v-checkbox
          :model-value="open.shared"
          label="Others may look"
          title="Everybody who may sign in sees this list; only you change it."
          @update:model-value="share"
        />
        <v-btn @click="ask('name')">Rename</v-btn>
        <v-btn color="break" @click="removing = true">Remove…</v-btn>
      </template>
      <v-btn v-else-if="open" @click="ask('copy')">Make it mine</v-btn>
      <v-btn variant="flat" @click="ask('new')">New list</v-btn>
    </div>
    <nav v-if="watching.lists.length" class="lists" aria-label="Watch lists">
      <button
        v-for="list in watching.lists"
        :key="list.id"
        type="button"
        class="chip"
        :class="{ here: list.id === open?.id }"
        :aria-current="list.id === open?.id"
        @click="watching.current = list.id"
      >
        {{ list.name }}
        <span class="quiet"
          >{{ list.tags.length }}<template v-if="!list.mine"> · of {{ list.owner }}</template
          ><template v-else-if="list.shared"> · shared</template></span
        >
      </button>
    </nav>
    <FaultNote v-if="problem" :fault="problem.why" class="gap" />
    <FaultNote v-else-if="refused" :fault="refused.why" class="gap" />
    <form v-if="!open || open.mine" class="add" @submit.prevent="add">
      <TagField v-model="adding" label="Watch a tag, or all of a folder" :message="addMessage" class="field" />
      <v-btn type="submit" class="send" :disabled="adding.trim() === ''">Add</v-btn>
    </form>
    <section v-if="tags.length" class="sheet list">
      <div class="table" role="table" aria-label="Watched tags" :aria-rowcount="tags.length">
        <div ref="scroller" class="scroller" tabindex="0" role="rowgroup">
          <div class="columns header" role="row">
            <span role="columnheader">Path</span><span role="columnheader" class="right">Value</span><span role="columnheader">Unit</span
            ><span role="columnheader">Quality</span><span role="columnheader" class="right">Age s</span
            ><span role="columnheader" class="right">Least</span><span role="columnheader" class="right">Most</span
            ><span role="columnheader" class="right" title="Changes each second">Chg/s</span
            ><span role="columnheader" title="The last five minutes">Last 5 min</span
            ><span role="columnheader"><span class="visually-hidden">Take off</span></span>
          </div>
          <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
            <div v-for="row in rows" :key="tags[row.index]!.id" class="slot" :style="{ transform: `translateY(${row.start}px)` }">
              <WatchRow
                :tag="tags[row.index]!"
                :trend="trends.get(tags[row.index]!.id)"
                :chosen="tags[row.index]!.id === chosenId"
                :now="now.getTime()"
                :can-remove="open?.mine === true"
                @click="chosenId = tags[row.index]!.id"
                @remove="takeOff(tags[row.index]!)"
              />
            </div>
          </div>
        </div>
      </div>
      <p class="foot quiet">
        {{ counted(tags.length, 'tag') }} · least and most of the last five minutes, of values that were good<template v-if="open?.mine">
          · Alt and an arrow moves the chosen one, Delete takes it off</template
        >
      </p>
    </section>
    <EmptyState
      v-else
      :title="open ? 'Nothing on this list yet' : 'No watch list yet'"
      text="Add tags by their path, or press w on a chosen tag anywhere in the lists. What is watched is kept for you, wherever you sign in."
    >
      <v-btn to="/tags">Tags</v-btn>
    </EmptyState>
    <AskDialog v-model="removing" :title="`Remove “${open?.name}”?`" yes="Remove the list" no="Keep it" grave @yes="removeList">
      <p>Its tags stay what they are.<template v-if="open?.shared"> Others will not see it any more.</template></p>
    </AskDialog>
    <v-dialog v-model="isNaming" max-width="420" :aria-label="nameTitle">
      <form class="sheet naming" @submit.prevent="saveName">
        <h2 class="sheet-title">{{ nameTitle }}</h2>
        <TextField v-model="name" label="Name" autofocus :message="nameProblem?.fields[0]?.message ?? ''" />
        <FaultNote v-if="nameProblem && nameProblem.fields.length === 0" :fault="nameProblem.why" />
        <div class="buttons">
          <v-btn type="submit" variant="flat" :disabled="name.trim() === ''">Save</v-btn>
          <v-btn @click="naming = null">Cancel</v-btn>
        </div>
      </form>
    </v-dialog>
    <template #beside>
      <TagPanel v-if="chosen" :key="chosen.id" :tag="chosen" :notes="undefined" @close="chosenId = null" @remove="removeTag(chosen)">
        <h3 class="sheet-title">The last five minutes</h3>
        <TrendPicture :trend="trends.get(chosen.id)" :unit="chosen.unit" large />
      </TagPanel>
    </template>
  </SplitPage>
</template>

<style scoped>
.lists {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
.lists .chip {
  border: 1px solid var(--line);
  border-radius: 14px;
  padding: 2px 12px;
  max-width: 320px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lists .here {
  background: var(--tint);
  border-color: var(--primary);
}
.add {
  display: flex;
  gap: 8px;
  align-items: flex-start;
  margin-bottom: 12px;
}
.field {
  flex: 1;
  max-width: 520px;
}
.send {
  margin-top: 21px;
}
.gap {
  margin-bottom: 12px;
}
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.table {
  display: contents;
}
.watch :deep(.columns) {
  display: grid;
  grid-template-columns:
    minmax(150px, 2.2fr) minmax(84px, 1fr) 48px minmax(70px, 0.8fr) 48px minmax(70px, 0.8fr) minmax(70px, 0.8fr) 52px minmax(130px, 1.8fr)
    28px;
  align-items: center;
  gap: 10px;
  padding: 0 10px;
}
.watch :deep(.header) {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--surface);
  border-radius: 8px 8px 0 0;
  padding-block: 7px;
  border-bottom: 1px solid var(--line);
  color: var(--quiet);
  font-weight: 500;
}
.watch.open :deep(.columns) {
  grid-template-columns:
    minmax(120px, 2fr) minmax(84px, 1fr) 40px minmax(60px, 0.8fr) 44px minmax(60px, 0.8fr) minmax(60px, 0.8fr)
    48px 84px 28px;
  gap: 8px;
}
.right {
  text-align: right;
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.slot {
  position: absolute;
  inset-inline: 0;
  top: 0;
}
.foot {
  margin: 0;
  padding: 7px 12px;
  border-top: 1px solid var(--line);
}
.naming {
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
</style>
