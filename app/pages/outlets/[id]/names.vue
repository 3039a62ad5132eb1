<script setup lang="ts">
import { listWhole } from '#shared/api/lists'
import { changeOutlet, listNames, showOutlet } from '#shared/api/outlets'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { counted } from '#core/text/counted'
import { ownNameProblem } from '#core/tags/shortNames'
import type { ListedName, ListedNames } from '#shared/outlets/names'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'

/** Short names both ways: which path has which, and which name leads to what; own ones are typed here. */
const rowHeight = 30
const id = Number(useRoute().params.id)
const live = useLive()
const notices = useNotices()
const session = useSession()
const { copied, copy } = useCopy()
const outlet = shallowRef<Outlet | null>(null)
const listed = shallowRef<ListedNames>({ names: [], left: [] })
const refused = ref<Refused | null>(null)
const find = ref('')

const load = async () => {
  try {
    outlet.value = await callApi(showOutlet, { params: { id } })
    const names = await callApi(listNames, { params: { id }, query: { limit: listWhole } })
    listed.value = { names: names.items, left: names.left }
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => live.changes, load, { immediate: true })

const shown = computed(() => {
  const words = find.value.trim().toLowerCase()
  const hits = ({ path, name }: ListedName) => path.toLowerCase().includes(words) || name.toLowerCase().includes(words)
  return words ? listed.value.names.filter(hits) : listed.value.names
})
const count = (how: ListedName['how']) => listed.value.names.filter((one) => one.how === how).length
const summary = computed(() => {
  const parts = [`${counted(listed.value.names.length, 'name')}`]
  if (count('own')) parts.push(`${count('own')} of your own`)
  if (count('shortened')) parts.push(`${count('shortened')} shortened`)
  if (count('made unique')) parts.push(`${count('made unique')} made unique`)
  return parts.join(' · ')
})
const troubled = computed(() => listed.value.names.filter(({ problem }) => problem))

const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({ count: shown.value.length, getScrollElement: () => scroller.value, estimateSize: () => rowHeight, overscan: 12 })),
)
const visible = computed(() => virtual.value.getVirtualItems())

const editing = ref<string | null>(null)
const typed = ref('')
const busy = ref(false)
/** As the outlet has them; null: it is not there, or of a kind that has none. */
const names = computed(() => (outlet.value ? (settingsAs('opcua-server', outlet.value)?.shortNames ?? null) : null))
const most = computed(() => names.value?.most ?? 64)
const byName = computed(() => new Map(listed.value.names.map((one) => [one.name.toLowerCase(), one])))
const problem = computed(() => {
  if (editing.value === null || typed.value.trim() === '') return ''
  const holder = byName.value.get(typed.value.trim().toLowerCase())
  const taken = holder?.how === 'own' && holder.path !== editing.value ? `It belongs to ${holder.path}.` : ''
  return ownNameProblem(typed.value.trim(), most.value) ?? taken
})
const edit = ({ path, name }: ListedName) => {
  editing.value = path
  typed.value = name
}
const ownWithout = (path: string) => names.value!.own.filter((one) => one.path !== path)

/** An empty name goes back to the made one. */
const save = async (path: string, name: string) => {
  if (problem.value) return
  const own = name ? [...ownWithout(path), { path, name }] : ownWithout(path)
  await change(own, name ? `${path} goes by ${name}.` : `${path} goes by its made name.`)
  editing.value = null
}
const change = async (own: { path: string; name: string }[], told: string, on = names.value!.on) => {
  const { revision, id: _id, ...draft } = outlet.value!
  const settings = { ...draft.settings, shortNames: { ...names.value!, own, on } }
  busy.value = true
  try {
    const saved = await callApi(changeOutlet, { params: { id }, body: { revision, outlet: { ...draft, settings } } })
    notices.tell(told, saved.revision)
    await load()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    busy.value = false
  }
}
const dropLeft = () => {
  const left = new Set(listed.value.left.map(({ path }) => path))
  const own = names.value!.own.filter(({ path }) => !left.has(path))
  return change(own, `${counted(left.size, 'short name')} of what is gone dropped.`)
}
const howText: Record<ListedName['how'], string> = {
  own: 'your own',
  made: 'made',
  shortened: 'shortened',
  'made unique': 'made unique',
}
</script>

<template>
  <div class="page names">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ outlet?.name ?? 'Outlet' }} ›</NuxtLink>
      <h1>Short names</h1>
      <v-text-field v-model="find" data-filter class="filter" placeholder="Find by path or by short name" aria-label="Find" clearable />
      <span class="quiet">{{ summary }}</span>
      <span class="fill" />
      <v-btn :href="`/api/outlets/${id}/names.csv`" download>Save as CSV</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <section v-if="names && !names.on" class="sheet hint">
      <span>
        These names are not shown to clients yet. Switched on, they stand in one flat folder,
        <span class="mono">Objects / Short names</span>, beside the deep one.
      </span>
      <BusyButton
        v-if="session.can('configure')"
        variant="flat"
        :busy="busy"
        @click="change(names.own, 'Short names are shown to clients.', true)"
        >Show them</BusyButton
      >
    </section>
    <section v-if="troubled.length || listed.left.length" class="sheet hint trouble">
      <p v-for="one in troubled" :key="one.path" class="is-broken">
        {{ one.path }}: {{ one.problem }} It goes by {{ one.name }} until then.
      </p>
      <p v-if="listed.left.length">
        {{ counted(listed.left.length, 'own name') }} for what is not there any more:
        <span class="mono">{{ listed.left.map(({ name }) => name).join(', ') }}</span>
        <BusyButton v-if="session.can('configure')" height="24" :busy="busy" @click="dropLeft">Drop them</BusyButton>
      </p>
    </section>
    <EmptyState
      v-if="outlet && listed.names.length === 0"
      title="Nothing to name yet"
      text="Every folder and tag that this outlet shows gets a short name."
    >
      <v-btn to="/tags">Tags</v-btn>
    </EmptyState>
    <div v-else class="sheet list" role="table" aria-label="Short names" :aria-rowcount="shown.length">
      <div ref="scroller" class="scroller" tabindex="0" role="rowgroup">
        <div class="columns header" role="row">
          <span role="columnheader">Short name</span><span role="columnheader">Path</span><span role="columnheader">Is</span
          ><span role="columnheader">Name is</span><span role="columnheader"><span class="d-sr-only">Actions</span></span>
        </div>
        <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
          <div
            v-for="item in visible"
            :key="shown[item.index]!.path"
            class="columns slot"
            role="row"
            :style="{ transform: `translateY(${item.start}px)` }"
          >
            <template v-if="editing === shown[item.index]!.path">
              <v-text-field
                v-model="typed"
                class="mono field"
                aria-label="Short name"
                autofocus
                hide-details
                :error="!!problem"
                @keydown.enter.prevent="save(shown[item.index]!.path, typed.trim())"
                @keydown.esc.stop="editing = null"
              />
              <span role="cell">
                {{ shown[item.index]!.path }} ·
                <span :class="problem ? 'is-broken' : 'quiet'">{{ problem || 'Enter saves; empty: the made one again' }}</span>
              </span>
              <span /><span />
              <BusyButton height="24" :busy="busy" :disabled="!!problem" @click="save(shown[item.index]!.path, typed.trim())"
                >Save</BusyButton
              >
            </template>
            <template v-else>
              <span role="cell" class="mono cut" :title="shown[item.index]!.name">{{ shown[item.index]!.name }}</span>
              <span role="cell" class="cut" :title="shown[item.index]!.path">{{ shown[item.index]!.path }}</span>
              <span role="cell" class="quiet">{{ shown[item.index]!.kind }}</span>
              <span role="cell" :class="shown[item.index]!.how === 'made' ? 'quiet' : 'is-late'">{{
                howText[shown[item.index]!.how]
              }}</span>
              <span role="cell" class="actions">
                <button type="button" class="link" @click="copy(shown[item.index]!.name)">
                  {{ copied === shown[item.index]!.name ? 'copied' : 'copy' }}
                </button>
                <button v-if="session.can('configure')" type="button" class="link" @click="edit(shown[item.index]!)">own name</button>
              </span>
            </template>
          </div>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.names {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.filter {
  max-width: 300px;
  flex: 1;
}
.hint {
  display: flex;
  gap: 16px;
  justify-content: space-between;
  align-items: center;
  padding: 10px 14px;
  margin-bottom: 12px;
}
.trouble {
  display: block;
}
.trouble p {
  margin: 4px 0;
}
.list {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr) 60px 100px 130px;
  gap: 12px;
  align-items: center;
  padding: 0 14px;
}
.header {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--surface);
  min-height: 32px;
  color: var(--quiet);
  border-bottom: 1px solid var(--line);
}
.scroller {
  flex: 1;
  overflow: auto;
}
.slot {
  position: absolute;
  inset: 0 0 auto;
  height: 30px;
  border-bottom: 1px solid var(--line-soft);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.field :deep(.v-field__input) {
  min-height: 26px;
  padding-block: 0;
}
.actions {
  display: flex;
  gap: 12px;
  justify-content: flex-end;
}
</style>
