<script setup lang="ts">
import { knownTags, makeTags, showTag } from '#shared/api/tags'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { refDebounced } from '@vueuse/core'
import { patternOf } from '#core/tags/series'
import { counted } from '#core/text/counted'
import { mostOfSeries, seriesOf } from '#shared/series'
import { isFrom } from '#shared/sources/registry'
import { linkIn } from '~/sources/face'

/** Many tags after one: paths count up, addresses step. All of them are shown before any is made. */
const rowHeight = 30
const route = useRoute()
const lists = useLists()
const notices = useNotices()
await lists.whenLoaded()
const tag = await callApi(showTag, { params: { id: Number(route.query.like) } }).catch(() => null)
const address = tag && isFrom('point', tag) ? tag.source.address : ''

const path = ref(tag ? patternOf(tag.path) : '')
const first = ref(address)
const count = ref<number | null>(20)
const step = ref<number | null>(null)
const busy = ref(false)
const refused = shallowRef<Refused | null>(null)
/** Paths that tags have already, and by what tag an address is read already. */
const taken = shallowRef<ReadonlySet<string>>(new Set(tag ? [tag.path] : []))
const readBy = shallowRef<ReadonlyMap<string, string>>(new Map())

const pattern = computed(() => ({ path: path.value.trim(), address: first.value.trim(), count: count.value ?? 0, step: step.value }))
const settledPattern = refDebounced(pattern, 150)
const countMessage = computed(() => {
  const many = count.value
  return many !== null && Number.isInteger(many) && many >= 1 && many <= mostOfSeries
    ? ''
    : `1 to ${mostOfSeries.toLocaleString('en-GB')} tags.`
})
const rows = computed(() => {
  if (!tag || countMessage.value) return []
  const { id: _id, revision: _revision, ...like } = tag
  const made = seriesOf({ like, ...settledPattern.value }, (id) => linkIn(lists.links, id))
  return made.map(({ draft, problems }) => ({
    draft,
    address: isFrom('point', draft) ? draft.source.address : '',
    problem: problems[0]?.message ?? '',
  }))
})
/** What tags there are along the series, asked anew for each one that is shown. */
watch(
  rows,
  async (shown) => {
    if (!tag || shown.length === 0) return
    const linkId = isFrom('point', tag) ? tag.source.linkId : 1
    const points = shown.flatMap(({ address }) => (address ? [{ address, member: '' }] : []))
    const known = await callApi(knownTags, { body: { linkId, points, paths: shown.map(({ draft }) => draft.path) } }).catch(() => null)
    if (!known || shown !== rows.value) return
    taken.value = new Set(known.paths)
    readBy.value = new Map(known.points.map((point) => [point.address ?? '', point.path]))
  },
  { immediate: true },
)
const remarkOf = ({ draft, address, problem }: (typeof rows.value)[number]) => {
  if (problem) return problem
  if (draft.path === tag?.path) return 'This is the tag that the series is made after.'
  if (taken.value.has(draft.path)) return 'Is there already, and left as it is.'
  return readBy.value.has(address) ? `Is read already, as ${readBy.value.get(address)}.` : ''
}
/** What is there already is left out: a series can be made longer. */
const fresh = computed(() => rows.value.filter(({ draft }) => !taken.value.has(draft.path)))
const wrong = computed(() => rows.value.filter(({ problem }) => problem !== '').length)

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: rows.value.length, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 12 })),
)
const visible = computed(() => virtual.value.getVirtualItems())

const make = async () => {
  busy.value = true
  refused.value = null
  try {
    const made = await callApi(makeTags, { body: { tags: fresh.value.map(({ draft }) => draft) } })
    notices.tell(`${counted(made.length, 'tag')} made.`, made[0]!.revision)
    await navigateTo('/tags')
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>A series{{ tag ? ` after ${tag.path}` : '' }}</h1>
      <span class="fill" />
      <BusyButton v-if="tag" variant="flat" :busy="busy" :disabled="fresh.length === 0 || wrong > 0" @click="make">
        Make {{ counted(fresh.length, 'tag') }}
      </BusyButton>
    </div>
    <EmptyState v-if="!tag" title="No tag to begin with" text="A series is made after a tag: open one and choose “Make a series”.">
      <v-btn to="/tags">To the tags</v-btn>
    </EmptyState>
    <template v-else>
      <section class="sheet fields">
        <TextField v-model="path" label="Paths" mono hint="a number in braces is counted up from there: module_{01}" />
        <TextField v-if="address" v-model="first" label="First address" mono hint="or counted as well: s=Motor{1}.Speed" />
        <NumberField v-if="address" v-model="step" label="Address step" hint="empty: the width of the value" />
        <NumberField v-model="count" label="How many" :message="countMessage" />
      </section>
      <FaultNote v-if="refused" :fault="refused.why" class="gap" />
      <p v-for="one in refused?.fields.slice(0, 5)" :key="one.path" class="is-broken">{{ one.path }} {{ one.message }}</p>
      <section class="sheet list">
        <div ref="scroller" class="scroller" tabindex="0" role="table" aria-label="The series" :aria-rowcount="rows.length">
          <div role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
            <div v-for="item in visible" :key="item.index" class="slot" role="row" :style="{ transform: `translateY(${item.start}px)` }">
              <span role="cell" class="mono" :title="rows[item.index]!.draft.path">{{ rows[item.index]!.draft.path }}</span>
              <span role="cell" class="mono quiet">{{ rows[item.index]!.address }}</span>
              <span role="cell" :class="rows[item.index]!.problem ? 'is-broken' : 'quiet'">{{ remarkOf(rows[item.index]!) }}</span>
            </div>
          </div>
        </div>
        <div class="foot quiet">
          {{ counted(fresh.length, 'tag') }}, each of type {{ tag.type
          }}<template v-if="fresh.length < rows.length"> · {{ rows.length - fresh.length }} there already</template
          ><template v-if="wrong > 0"> · {{ wrong }} cannot be made so</template>
        </div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 2fr 1.5fr 1fr 1fr;
  gap: 12px;
  padding: 14px 18px;
  margin-bottom: 12px;
}
.list {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.slot {
  position: absolute;
  inset: 0 0 auto;
  height: 30px;
  display: grid;
  grid-template-columns: minmax(200px, 2fr) minmax(140px, 1fr) minmax(200px, 2fr);
  gap: 12px;
  align-items: center;
  padding: 0 14px;
  border-bottom: 1px solid var(--line-soft);
}
.slot > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.foot {
  padding: 7px 14px;
  border-top: 1px solid var(--line);
}
.gap {
  margin-bottom: 12px;
}
</style>
