<script setup lang="ts">
import { mapColumns, mapTable, readMapTable, type TableProblem } from '#core/modbus/map/table'
import type { MapEntry } from '#core/modbus/map/entry'
import { qualityText, severityOf } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import { valueText } from '#core/text/number'
import { changeOutlet, showOutlet } from '#shared/api/outlets'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { GridColumns } from '~/composables/gridCells'
import type { MapRow } from '~/composables/useMapRows'
import type { KnownTag } from '~/composables/usePlaceables'

/** Which tag lies where: a grid to change it, places to be proposed, and files both ways. */
const id = Number(useRoute().params.id)
const live = useLive()
const notices = useNotices()
const session = useSession()
const lists = useLists()
const outlet = shallowRef<Outlet | null>(null)
const refused = ref<Refused | null>(null)
const theirs = computed(() => (refused.value?.why.code === 'entry.edited' ? (refused.value.more.current as Outlet) : null))
const busy = ref(false)
const proposing = ref(false)
const fileProblems = ref<TableProblem[]>([])
const settings = computed(() => (outlet.value ? settingsAs('modbus-server', outlet.value) : null))
const unit = computed(() => settings.value?.unit ?? 1)
const map = useMapRows(() => unit.value)
const { rows, entries, problems, isDirty } = map
const { question, letGo } = useLeaveGuard(() => isDirty.value)
const mayEdit = computed(() => session.can('configure'))

const take = (next: Outlet) => {
  outlet.value = next
  refused.value = null
  map.load(settings.value?.map ?? [])
}
try {
  take(await callApi(showOutlet, { params: { id } }))
} catch (error) {
  refused.value = asRefused(error)
}

// the tags that there are

const { read, fetchAll } = usePlaceables()
const tags = shallowRef<KnownTag[] | null>(null)
const loadTags = async () => (tags.value = await fetchAll().catch(() => tags.value))
onMounted(loadTags)
watch(() => live.changes, loadTags)
const { tagOf, valueOf, rest } = useMapTags(rows, tags)
const textOf = (row: MapRow) => (tagOf(row) ? valueText(valueOf(row)?.value, tagOf(row)!.type) : '')
const stateOf = (row: MapRow) => {
  if (tags.value && !tagOf(row)) return 'no such tag'
  const quality = valueOf(row)?.quality
  return quality === undefined ? '' : qualityText(quality)
}
const severityIn = (row: MapRow) => {
  if (tags.value && !tagOf(row)) return 'bad'
  const quality = valueOf(row)?.quality
  return quality === undefined ? 'good' : severityOf(quality)
}

// the grid

const grid = ref<{ block: { top: number; bottom: number }; chosenRows: number; fillDown(): void; focus(): void } | null>(null)
const chosen = computed(() => grid.value?.chosenRows ?? 1)
const about: Record<string, string> = {
  path: 'The tag, by its path.',
  address:
    'Table and offset as they travel: holding/40, coil/3, input/0; a bit of a register as holding/40.3; another unit as 2:holding/40.',
  reference: 'The same counted from 1, as some programs have it. It follows the address.',
  type: 'How it is told: bool, uint16, int16, uint32, int32, uint64, int64, float32, float64 or string.',
  word_order: 'Of types over several registers: ABCD, CDAB, BADC or DCBA.',
  length: 'Bytes of a string.',
  gain: 'The value is what the registers hold × gain: 0.1 for tenths.',
  tells: 'value; or good, a bool that is on while the value can be believed.',
}
const ways: GridColumns = {
  about: (name) => about[name] ?? '',
  fixed: new Set(['reference']),
  sorts: [],
  widths: { path: 300, address: 130, reference: 96, type: 84, word_order: 96, length: 74, gain: 80, tells: 76 },
}
const shownRows = computed(() => new Map(rows.value.map((row, i) => [i, row])))
/** All lines of a map are here. */
const allHere = () => Promise.resolve()
const addLine = () => {
  map.addBlank({ address: '' })
  void nextTick(() => grid.value?.focus())
}
const dropChosen = () => {
  const { top, bottom } = grid.value!.block
  map.drop(new Set(rows.value.slice(top, bottom + 1).map((row) => row.id)))
}
const propose = (made: MapEntry[]) => {
  map.add(made)
  proposing.value = false
}

// files

const saveFile = () => saveTextFile(`register-map-${id}.csv`, mapTable(entries.value.map(({ entry }) => entry)))
const chooser = ref<HTMLInputElement | null>(null)
const loadFile = async () => {
  const file = chooser.value?.files?.[0]
  if (!file) return
  chooser.value!.value = ''
  const table = readMapTable(await file.text())
  fileProblems.value = table.problems
  if (table.entries.length > 0) map.replace(table.entries)
}

// saving

const problemText = computed(() => {
  const [first] = problems.value
  const row = first && rows.value.find((one) => one.id === first[0])
  return row ? `Line ${rows.value.indexOf(row) + 1}: ${first[1].message}` : ''
})
const save = async (revision = outlet.value!.revision) => {
  if (problems.value.size > 0 || busy.value) return
  const { id: _id, revision: _revision, ...draft } = outlet.value!
  const settingsNow = { ...settings.value!, map: entries.value.map(({ entry }) => entry) }
  busy.value = true
  try {
    const saved = await callApi(changeOutlet, { params: { id }, body: { revision, outlet: { ...draft, settings: settingsNow } as never } })
    take(saved)
    notices.tell(`The map of “${saved.name}” saved: ${counted(settings.value!.map.length, 'entry', 'entries')}.`, saved.revision)
    void lists.refresh()
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
    letGo.value = false
  }
}
const saveOverTheirs = () => {
  const { current } = refused.value!.more as { current: Outlet }
  outlet.value = current
  return save(current.revision)
}
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ outlet?.name ?? 'Outlet' }} ›</NuxtLink>
      <h1>Register map</h1>
      <span v-if="read" class="quiet">{{ read.got.toLocaleString('en-GB') }} of {{ counted(read.total, 'tag') }} read</span>
      <span class="fill" />
      <template v-if="settings">
        <v-btn @click="saveFile">Save as CSV</v-btn>
        <template v-if="mayEdit">
          <v-btn @click="chooser?.click()">From CSV…</v-btn>
          <input
            ref="chooser"
            type="file"
            accept=".csv,text/csv,text/plain"
            class="visually-hidden"
            aria-label="File of a map"
            tabindex="-1"
            @change="loadFile"
          />
          <v-btn @click="proposing = !proposing">Propose places…</v-btn>
          <v-btn @click="addLine">Add a line</v-btn>
          <v-btn :disabled="map.done.value.length === 0" @click="map.undo()">Undo</v-btn>
          <v-btn :disabled="map.undone.value.length === 0" @click="map.redo()">Redo</v-btn>
          <BusyButton variant="flat" :busy="busy" :disabled="!isDirty || problems.size > 0" @click="save()">
            {{ isDirty ? 'Save the map' : 'Nothing to save' }}
          </BusyButton>
        </template>
      </template>
    </div>
    <SaveNote :refused="refused" :theirs="theirs" @show="take" @overwrite="saveOverTheirs" />
    <section v-if="proposing" class="sheet panel">
      <MapProposal :tags="tags" :there="entries.map(({ entry }) => entry)" :unit="unit" @take="propose">
        <v-btn @click="proposing = false">Close</v-btn>
      </MapProposal>
    </section>
    <section v-if="fileProblems.length" class="sheet panel">
      <p class="is-broken">{{ counted(fileProblems.length, 'line') }} of the file could not be read and were left out:</p>
      <p v-for="one in fileProblems.slice(0, 5)" :key="one.line" class="small">line {{ one.line }}: {{ one.message }}</p>
      <v-btn height="24" @click="fileProblems = []">Close</v-btn>
    </section>
    <EmptyState
      v-if="settings && rows.length === 0 && !proposing"
      title="Nothing is mapped yet"
      text="A client asks for addresses; the map says which tag lies at each. Have places proposed, or take a CSV file."
    >
      <v-btn v-if="mayEdit" variant="flat" @click="proposing = true">Propose places</v-btn>
      <v-btn to="/tags">Tags</v-btn>
    </EmptyState>
    <CellGrid
      v-else-if="rows.length"
      ref="grid"
      label="Lines of the map"
      what="line"
      below="Add lines first, or take a CSV file."
      :columns="mapColumns"
      :ways="ways"
      :total="rows.length"
      :rows="shownRows"
      :cells="map.cells"
      :need="allHere"
      :may-edit="mayEdit"
      sort=""
      :watched="[
        { name: 'value now', width: 96, right: true },
        { name: 'quality', width: 104 },
      ]"
      @save="save()"
      @rest="rest"
    >
      <template #watched="{ row }">
        <span class="grid-cell number live" role="gridcell">{{ textOf(row) }}</span>
        <span
          class="grid-cell live"
          role="gridcell"
          :class="{ 'is-broken': severityIn(row) === 'bad', 'is-late': severityIn(row) === 'uncertain' }"
          >{{ stateOf(row) }}</span
        >
      </template>
      <span v-if="problemText" class="is-broken cut">{{ problemText }}</span>
      <template v-if="mayEdit">
        <v-btn v-if="chosen > 1" height="24" @click="grid?.fillDown()">Fill down</v-btn>
        <v-btn height="24" @click="dropChosen">Remove {{ chosen > 1 ? counted(chosen, 'line') : 'this line' }}</v-btn>
      </template>
      <span class="quiet">{{ counted(rows.length, 'line') }}</span>
    </CellGrid>
    <LeaveDialog v-model="question" />
  </div>
</template>

<style scoped>
.panel {
  padding: 12px 14px;
  margin-bottom: 12px;
}
.panel p {
  margin: 0 0 4px;
}
.small {
  font-size: 12px;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: 420px;
}
</style>
