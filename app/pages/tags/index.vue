<script setup lang="ts">
import { showTag } from '#shared/api/tags'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useNow } from '@vueuse/core'
import { protocolOf } from '#core/links/registry'
import type { Tag } from '#shared/tags'

const rowHeight = 30
const route = useRoute()
const live = useLive()
const lists = useLists()
const session = useSession()
const watching = useWatching()
const now = useNow({ interval: 500 })

const { find, filter, isNarrowed, set } = useTagFilter()
const link = computed(() => filter.value.link)
const pages = useTagPages(() => filter.value)
const { total, rows, notes } = pages
watch(filter, () => void pages.refresh(), { immediate: true })
watch(
  () => live.changes,
  () => void pages.refresh(true),
)

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: total.value, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 12 })),
)
const visible = computed(() => virtual.value.getVirtualItems())
watch(
  [visible, () => rows.size, () => live.changes],
  ([items]) => {
    if (items.length > 0) pages.need(items[0]!.index, items.at(-1)!.index)
    const ids = items.map(({ index }) => rows.get(index)?.id).filter((id) => id !== undefined)
    live.show('tags', chosen.value ? [...ids, chosen.value.id] : ids)
  },
  { deep: false },
)
onUnmounted(() => live.show('tags', []))

const chosen = shallowRef<Tag | null>(null)
const chosenIndex = computed(() => [...rows].find(([, tag]) => tag.id === chosen.value?.id)?.[0] ?? -1)
const choose = (tag: Tag | null) => {
  chosen.value = tag
  if (tag) live.show('tags', [...visible.value.map(({ index }) => rows.get(index)?.id).filter((id) => id !== undefined), tag.id])
}

watch(
  () => route.query.tag,
  async (id) => {
    if (id) chosen.value = await callApi(showTag, { params: { id: Number(id) } }).catch(() => null)
  },
  { immediate: true },
)

/** The link to take points from: the one filtered by, else the only one that can be browsed. */
const browsable = computed(() => {
  const all = lists.links.filter(({ kind }) => protocolOf(kind).capabilities.browse)
  return all.find(({ id }) => id === link.value) ?? (link.value === null && all.length === 1 ? all[0] : undefined)
})
const remove = useTagRemoval(() => (chosen.value = null))

const step = (by: number) => {
  const index = Math.max(0, Math.min(total.value - 1, chosenIndex.value + by))
  const tag = rows.get(index)
  if (tag) choose(tag)
  virtual.value.scrollToIndex(index)
}
const edit = () => navigateTo(`/tags/${chosen.value!.id}`)
useRowKeys(() => ({
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  Escape: () => choose(null),
  n: () => navigateTo('/tags/new'),
  ...(chosen.value ? { e: edit, Enter: edit, w: () => watching.watchTags([chosen.value!.id]) } : {}),
}))
</script>

<template>
  <SplitPage class="tags" :open="chosen !== null">
    <div class="page-head">
      <h1>Tags</h1>
      <TagFilters v-model:find="find" :filter="filter" @set="set" />
      <span class="fill" />
      <v-btn v-if="total > 0" :to="{ path: '/tags/grid', query: { ...route.query, tag: undefined } }">Grid</v-btn>
      <TableMenu :filter="filter" :total="total" />
      <v-btn v-if="browsable && session.can('configure')" :to="`/tags/take?link=${browsable.id}`">Take points</v-btn>
      <v-btn v-if="session.can('configure')" variant="flat" :to="link ? `/tags/new?link=${link}` : '/tags/new'">New tag</v-btn>
    </div>
    <FolderPath :filter="filter" @go="set({ below: $event })" />
    <FaultNote v-if="pages.refused.value" :fault="pages.refused.value.why" />
    <EmptyState
      v-else-if="lists.loaded && lists.links.length === 0 && pages.loaded.value && total === 0 && !find && !filter.below && !isNarrowed"
      title="No tags yet"
      text="Most tags read through a link: make one first. A tag in memory needs none."
    >
      <v-btn variant="flat" to="/links/new">New link</v-btn>
      <v-btn to="/tags/new">New tag</v-btn>
    </EmptyState>
    <EmptyState
      v-else-if="pages.loaded.value && total === 0 && !find && !filter.below && !isNarrowed"
      title="No tags yet"
      text="A tag is one value with a name, a type, a unit and an address."
    >
      <v-btn v-if="browsable && session.can('configure')" :to="`/tags/take?link=${browsable.id}`">Take points</v-btn>
      <v-btn v-if="session.can('configure')" variant="flat" :to="link ? `/tags/new?link=${link}` : '/tags/new'">New tag</v-btn>
    </EmptyState>
    <div v-else class="sheet list" role="table" aria-label="Tags" :aria-rowcount="total">
      <div ref="scroller" class="scroller" tabindex="0" role="rowgroup">
        <div class="header" role="row">
          <span role="columnheader">Path</span><span role="columnheader" class="right">Value</span><span role="columnheader">Unit</span
          ><span role="columnheader">Quality</span><span role="columnheader" class="right">Age s</span
          ><span role="columnheader">Address</span><span role="columnheader">Type</span><span role="columnheader">Words</span
          ><span role="columnheader">Every</span>
        </div>
        <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
          <div v-for="item in visible" :key="item.index" class="slot" :style="{ transform: `translateY(${item.start}px)` }">
            <TagRow
              v-if="rows.get(item.index)"
              :tag="rows.get(item.index)!"
              :note="openNote(notes.get(rows.get(item.index)!.id))"
              :chosen="rows.get(item.index)!.id === chosen?.id"
              :now="now.getTime()"
              @click="choose(rows.get(item.index)!)"
            />
            <div v-else class="waiting quiet">…</div>
          </div>
        </div>
      </div>
      <div class="foot quiet" role="rowgroup">
        <div role="row">
          <span role="cell">
            {{ total.toLocaleString('en-GB') }} {{ total === 1 ? 'tag' : 'tags'
            }}<template v-if="find || isNarrowed || filter.below">{{ total === 1 ? ' matches' : ' match' }}</template> ·
            <NuxtLink to="/tags/notes">notes on tags</NuxtLink> · <NuxtLink to="/tags/watch">watch lists</NuxtLink> ·
            <NuxtLink to="/tags/checks">check sheets</NuxtLink>
          </span>
        </div>
      </div>
    </div>
    <template #beside>
      <TagPanel v-if="chosen" :tag="chosen" :notes="notes.get(chosen.id)" @close="choose(null)" @remove="remove(chosen)" />
    </template>
  </SplitPage>
</template>

<style scoped>
.tags {
  --tag-columns: minmax(170px, 2.4fr) minmax(84px, 1fr) minmax(40px, 0.4fr) minmax(64px, 0.6fr) 44px minmax(118px, 1.5fr) 76px
    minmax(44px, 0.7fr) 48px;
}
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.header {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--surface);
  border-radius: 8px 8px 0 0;
  display: grid;
  grid-template-columns: var(--tag-columns);
  gap: 10px;
  padding: 7px 10px;
  border-bottom: 1px solid var(--line);
  color: var(--quiet);
  font-weight: 500;
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
  top: 0;
  left: 0;
  right: 0;
}
.waiting {
  height: 30px;
  padding: 4px 10px;
}
.foot {
  padding: 7px 12px;
  border-top: 1px solid var(--line);
}
</style>
