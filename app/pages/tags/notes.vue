<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { acceptNotes, listNotes } from '#shared/api/notes'
import { noteKindNames, noteKinds, type NoteKind } from '#core/notes/kinds'
import { counted } from '#core/text/counted'
import type { TagNote } from '#shared/notes'

/** Every note on a tag of the site: by kind, to be mended or accepted. */
const rowHeight = 46
const route = useRoute()
const live = useLive()
const notices = useNotices()

const kind = computed(() => noteKindNames.find((name) => name === route.query.kind) ?? null)
const isAccepted = computed(() => route.query.accepted === 'only')
const find = ref(typeof route.query.find === 'string' ? route.query.find : '')
const go = (part: Record<string, string | undefined>) => void navigateTo({ query: { ...route.query, ...part } }, { replace: true })

type Listed = TagNote & { id: number; path: string }
const kinds = ref<Partial<Record<NoteKind, number>>>({})
const pages = usePages<Listed, Awaited<ReturnType<typeof ask>>>(ask, (found) => (kinds.value = found.kinds))
function ask(offset: number, limit: number) {
  const query = { find: find.value || undefined, kind: kind.value ?? undefined, accepted: isAccepted.value ? ('only' as const) : undefined }
  return callApi(listNotes, { query: { ...query, offset, limit } })
}
const { total, rows } = pages
const nameOf = ({ id, key }: Listed) => `${id} ${key}`
const chosen = ref(new Map<string, Listed>())
watch([kind, isAccepted, find], () => {
  chosen.value = new Map()
  void pages.refresh()
})
watch(
  () => live.changes,
  () => void pages.refresh(true),
)
onMounted(() => pages.refresh())

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: total.value, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 8 })),
)
const visible = computed(() => virtual.value.getVirtualItems())
watch([visible, () => rows.size], ([items]) => items.length > 0 && pages.need(items[0]!.index, items.at(-1)!.index))

const toggle = (one: Listed) => {
  const next = new Map(chosen.value)
  if (!next.delete(nameOf(one))) next.set(nameOf(one), one)
  chosen.value = next
}
const chips = computed(() => noteKindNames.filter((name) => kinds.value[name] || name === kind.value))
const all = computed(() => Object.values(kinds.value).reduce((sum, count) => sum + count, 0))

const mostAtOnce = 5000
const chooseAll = async () => {
  await pages.need(0, Math.min(total.value, mostAtOnce) - 1)
  chosen.value = new Map([...rows.values()].slice(0, mostAtOnce).map((one) => [nameOf(one), one]))
}

const reason = ref('')
const busy = ref(false)
const accept = async (why: string | null) => {
  busy.value = true
  const notes = [...chosen.value.values()].map(({ id, key }) => ({ id, key }))
  try {
    const { revision } = await callApi(acceptNotes, { body: { notes, reason: why } })
    notices.tell(`${counted(notes.length, 'note')} ${why === null ? 'counted again' : 'accepted'}.`, revision)
    chosen.value = new Map()
    reason.value = ''
    await pages.refresh(true)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="page notes-page">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>Notes</h1>
      <ListFilter v-model="find" label="Filter notes" />
      <span class="fill" />
      <v-btn v-if="isAccepted" @click="go({ accepted: undefined, kind: undefined })">Show what is open</v-btn>
      <v-btn v-else @click="go({ accepted: 'only', kind: undefined })">Show what was accepted</v-btn>
    </div>
    <div class="kinds" role="group" aria-label="Kinds of notes">
      <button type="button" class="chip" :aria-pressed="kind === null" @click="go({ kind: undefined })">
        all <b>{{ all.toLocaleString('en-GB') }}</b>
      </button>
      <button
        v-for="name in chips"
        :key="name"
        type="button"
        class="chip"
        :aria-pressed="kind === name"
        @click="go({ kind: kind === name ? undefined : name })"
      >
        {{ noteKinds[name].title }} <b>{{ (kinds[name] ?? 0).toLocaleString('en-GB') }}</b>
      </button>
    </div>
    <FaultNote v-if="pages.refused.value" :fault="pages.refused.value.why" />
    <p v-else-if="!pages.loaded.value" class="quiet" aria-live="polite">Looking through all tags …</p>
    <EmptyState
      v-else-if="pages.loaded.value && total === 0"
      :title="isAccepted ? 'Nothing was accepted' : 'Nothing to be said'"
      :text="
        isAccepted
          ? 'A note that is right as it is can be accepted for a reason; it stands here then.'
          : find || kind
            ? 'No note holds this.'
            : 'No tag overlaps another, is refused by its device or cannot be carried by its type.'
      "
    />
    <section v-else class="sheet list">
      <p v-if="kind" class="todo quiet">{{ noteKinds[kind].todo }}</p>
      <div ref="scroller" class="scroller" tabindex="0" role="table" aria-label="Notes" :aria-rowcount="total">
        <div role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
          <div v-for="item in visible" :key="item.index" class="slot" role="row" :style="{ transform: `translateY(${item.start}px)` }">
            <template v-if="rows.get(item.index)">
              <span role="cell">
                <input
                  type="checkbox"
                  :checked="chosen.has(nameOf(rows.get(item.index)!))"
                  :aria-label="`Choose the note on ${rows.get(item.index)!.path}`"
                  @change="toggle(rows.get(item.index)!)"
                />
              </span>
              <span role="cell" class="path">
                <NuxtLink :to="`/tags/${rows.get(item.index)!.id}`" class="mono" :title="rows.get(item.index)!.path">{{
                  rows.get(item.index)!.path
                }}</NuxtLink>
                <small class="quiet">{{ noteKinds[rows.get(item.index)!.kind].title }}</small>
              </span>
              <span role="cell" class="text" :title="rows.get(item.index)!.text">
                {{ rows.get(item.index)!.text }}
                <small class="quiet">{{
                  rows.get(item.index)!.accepted ? `Accepted: ${rows.get(item.index)!.accepted}` : rows.get(item.index)!.todo
                }}</small>
              </span>
            </template>
            <span v-else class="quiet" role="cell">…</span>
          </div>
        </div>
      </div>
      <Allowed role="configure">
        <form class="foot" @submit.prevent="accept(reason)">
          <span class="quiet">{{ chosen.size > 0 ? `${counted(chosen.size, 'note')} chosen` : counted(total, 'note') }}</span>
          <v-btn height="26" :disabled="total === 0" @click="chooseAll">Choose all</v-btn>
          <template v-if="chosen.size > 0 && !isAccepted">
            <input
              v-model="reason"
              class="reason"
              aria-label="Why they are right as they are"
              placeholder="Why they are right as they are"
            />
            <BusyButton type="submit" height="26" :busy="busy" :disabled="reason.trim() === ''">Accept</BusyButton>
          </template>
          <BusyButton v-else-if="chosen.size > 0" height="26" :busy="busy" @click="accept(null)">Let them count again</BusyButton>
        </form>
      </Allowed>
    </section>
  </div>
</template>

<style scoped>
.notes-page {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
.chip {
  padding: 3px 10px;
  border: 1px solid var(--line);
  border-radius: 14px;
  background: var(--surface);
}
.chip[aria-pressed='true'] {
  border-color: var(--primary);
  box-shadow: inset 0 0 0 1px var(--primary);
}
.chip b {
  font-family: var(--mono);
  font-weight: 600;
}
.list {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.todo {
  margin: 0;
  padding: 8px 14px;
  border-bottom: 1px solid var(--line-soft);
}
.scroller {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.slot {
  position: absolute;
  inset: 0 0 auto;
  height: 46px;
  display: grid;
  grid-template-columns: 20px minmax(200px, 1fr) minmax(300px, 2fr);
  gap: 12px;
  align-items: center;
  padding: 0 14px;
  border-bottom: 1px solid var(--line-soft);
}
.path,
.text {
  min-width: 0;
  display: grid;
}
.path > *,
.text,
.text > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.foot {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 7px 14px;
  border-top: 1px solid var(--line);
}
.reason {
  flex: 1;
  min-width: 120px;
  padding: 3px 8px;
  border: 1px solid var(--line);
  border-radius: 5px;
}
</style>
