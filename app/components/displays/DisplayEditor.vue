<script setup lang="ts">
import { useManualRefHistory } from '@vueuse/core'
import { freePlace, sizeOf } from '#core/displays/place'
import { displayContract, type DisplayDraft, type Pane, type ShowsKind } from '#core/displays/settings'
import { changeDisplay, makeDisplay } from '#shared/api/displays'
import type { Display } from '#shared/displays'
import { blankShows, paneKinds } from '~/displays/blank'
import { displayFeed } from '~/displays/feed'

/** Arranges a display: its panes on the grid, live, and beside it the one that is chosen. */
const props = defineProps<{ initial: DisplayDraft; display: Display | null; for: string }>()
const store = useDisplays()
const equipment = useEquipment()

const form = useDraft<DisplayDraft>(props.initial, displayContract)
const { draft } = form
const { busy, refused, theirs, question, save, saveOverTheirs, take } = useSaving<DisplayDraft, Display>({
  form,
  opened: props.display,
  send: (display, revision) =>
    props.display
      ? callApi(changeDisplay, { params: { id: props.display.id }, body: { revision, display } })
      : callApi(makeDisplay, { body: display }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: ({ name }) => `Display “${name}” saved.`,
  after: (saved) => {
    void store.refresh()
    void navigateTo({ path: `/displays/${saved.id}`, query: at.value ? { for: at.value } : {} })
  },
})

const classChoices = computed(() => [
  { value: '', title: 'none', subtitle: 'it stands by itself; tags are named by their whole paths' },
  ...equipment.classes.map(({ name, description }) => ({ value: name, title: name, subtitle: description })),
])
const pieces = computed(() =>
  draft.value.class === ''
    ? []
    : equipment.equipment.filter((one) => equipment.model.isKindOf(one.class, draft.value.class)).map(({ path }) => path),
)
const wanted = ref(props.for)
const at = computed({
  get: () => (pieces.value.includes(wanted.value) ? wanted.value : (pieces.value[0] ?? '')),
  set: (path: string) => (wanted.value = path),
})
const feed = useDisplayFeed(
  () => draft.value.panes,
  () => at.value,
)
provide(displayFeed, feed)

const chosen = ref<number | null>(null)
const pane = computed(() => (chosen.value === null ? null : (draft.value.panes[chosen.value] ?? null)))
const copyOf = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const past = useManualRefHistory(draft, { clone: copyOf, capacity: 100 })
/** One step that can be taken back. */
const keep = () => past.commit()

const add = (kind: ShowsKind) => {
  draft.value.panes.push({ title: '', ...freePlace(draft.value.panes, sizeOf[kind]), shows: blankShows(kind) })
  chosen.value = draft.value.panes.length - 1
  keep()
}
const like = (index: number) => {
  const copied = copyOf(draft.value.panes[index]!)
  draft.value.panes.push({ ...copied, ...freePlace(draft.value.panes, copied) })
  chosen.value = draft.value.panes.length - 1
  keep()
}
const takeOut = (index: number) => {
  draft.value.panes.splice(index, 1)
  chosen.value = null
  keep()
}
const placed = (boxes: { index: number; x: number; y: number; w: number; h: number }[]) => {
  for (const { index, ...box } of boxes) Object.assign(draft.value.panes[index]!, box)
  keep()
}
const change = (next: Pane) => {
  if (chosen.value !== null) draft.value.panes[chosen.value] = next
}
const undo = () => {
  past.undo()
  if (chosen.value !== null && !draft.value.panes[chosen.value]) chosen.value = null
}
const problemsOf = (index: number) => [...form.problems.value.keys()].filter((path) => path.startsWith(`panes.${index}.`)).length
/** What is wrong with a pane shows once somebody tried to save; then the first of them is opened. */
const trySave = async () => {
  await save()
  const wrong = draft.value.panes.findIndex((_, index) => problemsOf(index) > 0)
  if (wrong >= 0) chosen.value = wrong
}
const step = (by: { x?: number; y?: number; w?: number; h?: number }) => {
  if (!pane.value) return
  const next = { ...pane.value }
  for (const [field, amount] of Object.entries(by) as ['x' | 'y' | 'w' | 'h', number][]) next[field] += amount
  if (next.x < 0 || next.y < 0 || next.w < 1 || next.h < 1 || next.x + next.w > 12) return
  change(next)
  keep()
}
const press = (event: KeyboardEvent) => {
  const isTyping = ['INPUT', 'TEXTAREA'].includes((event.target as HTMLElement).tagName)
  if (!(event.ctrlKey || event.metaKey) || isTyping) return
  if (event.key === 'z' && !event.shiftKey) undo()
  else if (event.key === 'y' || event.key === 'Z') past.redo()
  else return
  event.preventDefault()
}
onMounted(() => window.addEventListener('keydown', press))
onUnmounted(() => window.removeEventListener('keydown', press))
useRowKeys(() => ({
  Escape: () => (chosen.value = null),
  ...(pane.value
    ? {
        ...{ ArrowLeft: () => step({ x: -1 }), ArrowRight: () => step({ x: 1 }), ArrowUp: () => step({ y: -1 }) },
        ...{ ArrowDown: () => step({ y: 1 }), Delete: () => takeOut(chosen.value!) },
        ...{ 'Alt ArrowLeft': () => step({ w: -1 }), 'Alt ArrowRight': () => step({ w: 1 }) },
        ...{ 'Alt ArrowUp': () => step({ h: -1 }), 'Alt ArrowDown': () => step({ h: 1 }) },
      }
    : {}),
}))
</script>

<template>
  <SplitPage open>
    <div class="page-head">
      <NuxtLink to="/displays" class="trail">Displays ›</NuxtLink>
      <h1>{{ display ? display.name : 'New display' }}</h1>
      <v-autocomplete v-if="pieces.length" v-model="at" :items="pieces" aria-label="Shown for" class="piece" />
      <span class="fill" />
      <v-btn :disabled="!past.canUndo.value" title="Ctrl Z" @click="undo">Undo</v-btn>
      <v-btn :disabled="!past.canRedo.value" title="Ctrl Y" @click="past.redo()">Redo</v-btn>
    </div>
    <div class="kinds" role="group" aria-label="Add a pane">
      <v-btn v-for="one in paneKinds" :key="one.value" height="26" :title="one.subtitle" @click="add(one.value)">+ {{ one.title }}</v-btn>
    </div>
    <div class="scroll" @pointerdown.self="chosen = null">
      <p v-if="draft.panes.length === 0" class="quiet">
        Nothing is on it yet. Add a value, a trend or what is not well; then drag it where it belongs, and its corner to the size it needs.
      </p>
      <DisplayGrid :key="draft.panes.length" :panes="draft.panes" :chosen="chosen" editing @placed="placed" @choose="chosen = $event" />
    </div>
    <template #beside>
      <aside class="beside" aria-label="What is edited">
        <PaneFields
          v-if="pane"
          :key="`${chosen}`"
          :pane="pane"
          :class-name="draft.class"
          :message-for="(field) => form.messageFor(`panes.${chosen}.${field}`)"
          @change="change"
          @done="keep"
          @left="form.touch(`panes.${chosen}.${$event}`)"
          @another="like(chosen!)"
          @remove="takeOut(chosen!)"
          @close="chosen = null"
        />
        <form v-else @submit.prevent="trySave">
          <h2 class="sheet-title">The display</h2>
          <TextField v-model="draft.name" label="Name" :message="form.messageFor('name')" @left="form.touch('name')" />
          <ChoiceField v-model="draft.class" label="For each equipment of the class" :choices="classChoices" class="low" />
          <TextField
            v-model="draft.description"
            label="Description"
            class="low"
            :message="form.messageFor('description')"
            @left="form.touch('description')"
          />
          <p class="quiet low">
            A pane is chosen by a press. Arrows move it, with Alt they size it, Delete takes it out, Esc comes back here.
          </p>
        </form>
        <SaveNote :refused="refused" :theirs="theirs" class="low" @show="take" @overwrite="saveOverTheirs" />
        <form @submit.prevent="trySave">
          <SheetFoot
            :title="display ? 'Save' : 'Make it'"
            :busy="busy"
            :is-new="display === null"
            :is-dirty="form.isDirty.value"
            :problems="form.triedToSave.value ? form.problems.value.size : 0"
            @back="form.reset(initial)"
          />
        </form>
      </aside>
    </template>
    <LeaveDialog v-model="question" />
  </SplitPage>
</template>

<style scoped>
.piece {
  max-width: 320px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  padding: 5px 0 40px;
}
.beside {
  padding: 14px 18px 24px;
  background: var(--surface);
  border-left: 1px solid var(--line);
  overflow: auto;
}
.low {
  margin-top: 12px;
}
</style>
