<script setup lang="ts">
import { counted } from '#core/text/counted'
import { nameOf } from '#core/tags/path'
import { linkKinds, protocolOf, type LinkKind } from '#core/links/registry'
import { removeTags } from '#shared/api/tags'
import type { LinkNames } from '#shared/sources/columns'
import { tagColumns } from '#shared/tagCsv/columns'
import { fixedColumns } from '#shared/tagCsv/edit'

/** Tags as a grid: many of them changed as in a spreadsheet. */
const live = useLive()
const lists = useLists()
const session = useSession()
const notices = useNotices()
const { find, filter, sort, isNarrowed, set } = useTagFilter()
await lists.whenLoaded()

const links = computed<LinkNames>(() => {
  const byId = new Map(lists.links.map((link) => [link.id, link]))
  const byName = new Map(lists.links.map(({ id, name }) => [name.toLowerCase(), id]))
  return { linkOf: (id) => byId.get(id), idOf: (name) => byName.get(name.toLowerCase()), nameOf: (id) => byId.get(id)?.name }
})
const edits = useGridEdits(() => links.value)
const pages = useTagPages(
  () => ({ ...filter.value, sort: sort.value }),
  (tag) => edits.seen(tag),
)
const { total, rows, notes } = pages
watch([filter, sort], () => void pages.refresh(), { immediate: true })
watch(
  () => live.changes,
  () => void pages.refresh(true),
)
const { question } = useLeaveGuard(() => edits.edits.size > 0)

const usual = ['path', 'link', 'address', 'type', 'access', 'interval', 'gain', 'offset', 'unit', 'low', 'high', 'description']
const optionsOf = (kinds: readonly LinkKind[]) => new Set(kinds.flatMap((kind) => protocolOf(kind).columns.map(({ name }) => name)))
const allOptions = optionsOf(linkKinds)
/** What is most often changed comes first; options only of the protocols that are there. */
const columns = computed(() => {
  const options = optionsOf(lists.links.map(({ kind }) => kind))
  const isShown = (name: string) => !usual.includes(name) && !fixedColumns.has(name) && (!allOptions.has(name) || options.has(name))
  return [...usual, ...tagColumns.map(({ name }) => name).filter(isShown)]
})

const grid = ref<{ block: { top: number; bottom: number }; chosenRows: number; fillDown(): void; focus(): void } | null>(null)
const chosen = computed(() => grid.value?.chosenRows ?? 1)
const mayEdit = computed(() => session.can('configure'))

const save = async () => {
  const saved = await edits.save()
  if (!saved) return
  notices.tell(`${counted(saved.tags.length, 'tag')} changed.`, saved.revision)
  await pages.refresh(true)
  grid.value?.focus()
}

const chosenTags = async () => {
  const { top, bottom } = grid.value!.block
  await pages.need(top, bottom)
  return Array.from({ length: bottom - top + 1 }, (_, i) => rows.get(top + i)).filter((tag) => tag !== undefined)
}

const mostRemoved = 5000
const removing = ref(false)
const remove = async () => {
  removing.value = false
  try {
    const ids = (await chosenTags()).map(({ id }) => id)
    const { removed, revision } = await callApi(removeTags, { body: { ids } })
    notices.tell(`${counted(removed, 'tag')} removed.`, revision)
  } catch (error) {
    notices.tellProblem(asRefused(error).fields[0]?.message ?? asRefused(error).why.what)
  }
}

const folder = ref<string | null>(null)
const intoFolder = async () => {
  const to = (folder.value ?? '').replace(/^\/+|\/+$/g, '')
  folder.value = null
  const tags = await chosenTags()
  edits.write(tags.map((tag) => ({ row: tag, column: 'path', text: to === '' ? nameOf(tag.path) : `${to}/${nameOf(tag.path)}` })))
  grid.value?.focus()
}
const stuck = computed(() => edits.problems.size)
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink class="trail" :to="{ path: '/tags', query: $route.query }">Tags</NuxtLink>
      <h1>Grid</h1>
      <TagFilters v-model:find="find" :filter="filter" @set="set" />
      <span class="fill" />
      <v-btn :disabled="edits.done.value.length === 0" @click="edits.undo()">Undo</v-btn>
      <v-btn :disabled="edits.undone.value.length === 0" @click="edits.redo()">Redo</v-btn>
      <BusyButton v-if="mayEdit" variant="flat" :busy="edits.saving.value" :disabled="edits.edits.size === 0 || stuck > 0" @click="save">
        {{
          edits.edits.size === 0 ? 'Nothing to save' : `Save ${counted(edits.cells.value, 'cell')} of ${counted(edits.edits.size, 'tag')}`
        }}
      </BusyButton>
    </div>
    <FolderPath :filter="filter" @go="set({ below: $event })" />
    <FaultNote v-if="pages.refused.value" :fault="pages.refused.value.why" />
    <FaultNote v-if="edits.refused.value" :fault="edits.refused.value.why" />
    <EmptyState
      v-if="pages.loaded.value && total === 0"
      :title="isNarrowed || find || filter.below ? 'No tag is like that' : 'No tags yet'"
      :text="
        isNarrowed || find || filter.below ? 'Take away what narrows the list.' : 'A grid changes tags that are there; make some first.'
      "
    >
      <v-btn
        v-if="isNarrowed || filter.below"
        @click="set({ link: null, source: null, below: null, access: null, quality: null, noted: null })"
        >Show all</v-btn
      >
      <v-btn v-else to="/tags/new">New tag</v-btn>
    </EmptyState>
    <TagGrid
      v-else
      ref="grid"
      :columns="columns"
      :total="total"
      :rows="rows"
      :notes="notes"
      :edits="edits"
      :need="pages.need"
      :may-edit="mayEdit"
      :sort="sort"
      @sort="set({ sort: $event === 'path' ? null : $event })"
      @save="save"
    >
      <span v-if="stuck > 0" class="is-broken">{{ counted(stuck, 'tag') }} cannot be as typed</span>
      <template v-if="mayEdit && chosen > 1">
        <v-btn height="24" @click="grid?.fillDown()">Fill down</v-btn>
        <v-btn height="24" @click="folder = filter.below">Into a folder</v-btn>
        <v-btn height="24" :disabled="chosen > mostRemoved" @click="removing = true">Remove</v-btn>
      </template>
      <span class="quiet">{{ counted(total, 'tag') }}</span>
    </TagGrid>
    <AskDialog v-model="removing" :title="`Remove ${counted(chosen, 'tag')}?`" yes="Remove" no="Keep" grave @yes="remove">
      <p>Outlets no longer show them. It can be taken back.</p>
    </AskDialog>
    <AskDialog
      :model-value="folder !== null"
      :title="`${counted(chosen, 'tag')} into a folder`"
      yes="Write the paths"
      no="Leave them"
      @update:model-value="folder = null"
      @yes="intoFolder"
    >
      <TextField
        :model-value="folder ?? ''"
        label="Folder"
        mono
        autofocus
        placeholder="berth/1/shore"
        @update:model-value="folder = $event"
      />
      <p class="quiet">Nothing is saved yet; the new paths stand in the grid.</p>
    </AskDialog>
    <LeaveDialog v-model="question" />
  </div>
</template>
