<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { makeBulk, planBulk } from '#shared/api/equipment'
import { bulkSource, type BulkPlanShown, type BulkSource } from '#shared/equipment/equipment'

/** Many pieces of equipment at once, from a table or from folders of tags; what becomes of each stands here before it is done. */
const route = useRoute()
const notices = useNotices()
const store = useEquipment()
await store.whenLoaded()

const kind = ref<BulkSource['kind']>(route.query.class ? 'folders' : 'table')
const text = ref('')
const folders = reactive({ class: String(route.query.class ?? store.classes[0]?.name ?? ''), pattern: '', to: '' })
const from = computed(() =>
  kind.value === 'table' ? { kind: 'table' as const, text: text.value } : { kind: 'folders' as const, ...folders },
)
const read = computed(() => bulkSource.safeParse(from.value))
const isEmpty = computed(() => (kind.value === 'table' ? text.value.trim() === '' : folders.pattern === '' || folders.to === ''))
const message = (field: string) =>
  read.value.success || isEmpty.value ? '' : (read.value.error.issues.find(({ path }) => path.join('.') === field)?.message ?? '')

const plan = shallowRef<BulkPlanShown | null>(null)
const refused = shallowRef<Refused | null>(null)
const looking = ref(false)
let turn = 0
const look = async () => {
  const mine = ++turn
  plan.value = null
  refused.value = null
  looking.value = false
  if (isEmpty.value || !read.value.success) return
  looking.value = true
  try {
    const answer = await callApi(planBulk, { body: { from: read.value.data } })
    if (mine === turn) plan.value = answer
  } catch (error) {
    if (mine === turn) refused.value = asRefused(error)
  } finally {
    if (mine === turn) looking.value = false
  }
}
watch(from, useDebounceFn(look, 400), { deep: true })

const openFile = async (event: Event) => {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (file) text.value = await file.text()
}
const shown = ref<'made' | 'changed' | 'alike' | 'refused' | null>(null)
const pieces = computed(() => (plan.value?.pieces ?? []).filter(({ what }) => shown.value === null || what === shown.value))
const mostShown = 300
const counts = computed(() => (['made', 'changed', 'alike', 'refused'] as const).map((what) => ({ what, count: plan.value?.[what] ?? 0 })))
const words = { made: 'is made', changed: 'is changed', alike: 'stays as it is', refused: 'is left out' }
const todo = computed(() => (plan.value ? plan.value.made + plan.value.changed : 0))

const busy = ref(false)
const apply = async () => {
  if (!plan.value || !read.value.success) return
  busy.value = true
  refused.value = null
  try {
    const { made, changed, revision } = await callApi(
      makeBulk,
      { body: { from: read.value.data, digest: plan.value.digest } },
      { timeoutMs: 120_000 },
    )
    notices.tell(`${counted(made, 'piece')} of equipment made${changed > 0 ? `, ${changed} changed` : ''}.`, revision)
    await store.refresh()
    await navigateTo('/equipment')
  } catch (error) {
    refused.value = asRefused(error)
    if (refused.value.why.code === 'equipment.plan-changed') void look()
  } finally {
    busy.value = false
  }
}
const example = computed(() => {
  const own = store.model.propertiesOf(store.classes[0]?.name ?? '').filter(({ made }) => made.kind === 'input' || made.kind === 'constant')
  return [
    ['path', 'class', ...own.slice(0, 3).map(({ name }) => name)].join(','),
    [`Port/${store.classes[0]?.name ?? 'Pump'} 1`, store.classes[0]?.name ?? '', ...own.slice(0, 3).map(() => '…')].join(','),
  ].join('\n')
})
const kinds = [
  { value: 'table' as const, title: 'a table', subtitle: 'CSV: a line for each, a column for each input and constant' },
  { value: 'folders' as const, title: 'folders of tags', subtitle: 'one for each folder that goes by a pattern' },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/equipment" class="trail">Equipment ›</NuxtLink>
      <h1>Many at once</h1>
      <span class="fill" />
      <v-btn href="/api/equipment/table.csv">Save what there is as CSV</v-btn>
    </div>
    <section class="sheet from">
      <ChoiceField v-model="kind" label="From" :choices="kinds" class="kind" />
      <template v-if="kind === 'table'">
        <div class="wide">
          <AreaField
            v-model="text"
            label="The table; paste it, or choose a file"
            mono
            :rows="6"
            :placeholder="example"
            :message="message('text')"
          />
          <label class="file">
            Choose a file …
            <input type="file" accept=".csv,.txt,text/csv" class="visually-hidden" @change="openFile" />
          </label>
        </div>
      </template>
      <template v-else>
        <SuggestField v-model="folders.class" label="Class" :among="store.classes.map(({ name }) => name)" :message="message('class')" />
        <TextField
          v-model="folders.pattern"
          label="For each folder like"
          mono
          placeholder="berth/*/shore"
          hint="A star stands for what differs"
          :message="message('pattern')"
        />
        <TextField
          v-model="folders.to"
          label="A piece called"
          mono
          placeholder="Harrow Sound/Berth {1}/Feeder"
          hint="{1} is what the first star stood for"
          :message="message('to')"
        />
      </template>
    </section>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <p v-if="looking" class="quiet gap">Being worked out …</p>
    <template v-if="plan">
      <div class="counts gap" role="group" aria-label="What becomes of them">
        <button
          v-for="{ what, count } in counts"
          :key="what"
          type="button"
          class="count"
          :class="{ here: shown === what, 'is-broken': what === 'refused' && count > 0 }"
          :aria-pressed="shown === what"
          @click="shown = shown === what ? null : what"
        >
          <strong>{{ count.toLocaleString('en-GB') }}</strong> {{ what }}
        </button>
        <span class="quiet">{{ plan.tags.toLocaleString('en-GB') }} tags come with them</span>
        <span class="fill" />
        <BusyButton variant="flat" :busy="busy" :disabled="todo === 0" @click="apply"
          >Make and change {{ todo.toLocaleString('en-GB') }} of {{ plan.pieces.length.toLocaleString('en-GB') }}</BusyButton
        >
      </div>
      <section class="sheet">
        <table class="rows" aria-label="Pieces of equipment">
          <thead>
            <tr>
              <th class="number">Line</th>
              <th>Path</th>
              <th>Class</th>
              <th>Inputs bound</th>
              <th>What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, i) in pieces.slice(0, mostShown)" :key="i">
              <td class="number quiet">{{ one.line || '' }}</td>
              <td class="wrap">{{ one.path }}</td>
              <td>{{ one.class }}</td>
              <td :class="{ 'is-late': one.bound < one.inputs }">{{ one.inputs > 0 ? `${one.bound} of ${one.inputs}` : '' }}</td>
              <td>
                <span :class="{ 'is-broken': one.what === 'refused', quiet: one.what === 'alike' }">{{ words[one.what] }}</span>
                <span v-if="one.line === 0" class="quiet"> for what is part of it</span>
                <span v-for="path in one.absent" :key="path" class="why is-late">There is no tag {{ path }}.</span>
                <span v-for="problem in one.problems" :key="problem.path" class="why is-broken">{{ problem.message }}</span>
              </td>
            </tr>
            <tr v-if="pieces.length === 0">
              <td colspan="5" class="quiet">{{ plan.pieces.length === 0 ? 'No folder goes by this pattern.' : 'None.' }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="pieces.length > mostShown" class="quiet more">
          and {{ (pieces.length - mostShown).toLocaleString('en-GB') }} more like these
        </p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.from {
  padding: 14px 16px;
  display: grid;
  grid-template-columns: 220px 1fr 1fr 1fr;
  gap: 12px;
  align-items: start;
}
.wide {
  grid-column: 2 / -1;
}
.file {
  display: inline-block;
  margin-top: 8px;
  color: var(--primary);
  font-weight: 500;
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--copper);
}
.gap {
  margin: 14px 0;
}
.counts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.count {
  border: 1px solid var(--line);
  border-radius: 14px;
  padding: 2px 12px;
  background: var(--surface);
}
.count.here {
  background: var(--tint);
  border-color: var(--primary);
}
.fill {
  flex: 1;
}
.wrap {
  overflow-wrap: anywhere;
}
.why {
  display: block;
  font-size: 12px;
}
.more {
  padding: 0 12px 10px;
}
</style>
