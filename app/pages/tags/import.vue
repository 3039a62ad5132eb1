<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { counted } from '#core/text/counted'
import type { ImportSettings, Outcome } from '#shared/imports'

/** A table of tags: what it would do, line by line, before it is done. */
const route = useRoute()
const lists = useLists()
const notices = useNotices()
const one = useImport()
const { status, refused, isBusy } = one
const shown = ref<Outcome>('changed')
const find = ref<string | null>('')
const settledFind = refDebounced(find, 250)
const without = ref(new Set<string>())
const question = ref(false)
const columnsOpen = ref(false)

if (route.query.id) await one.open(Number(route.query.id))

const counts = computed(() => status.value?.counts)
const works = computed(() => (counts.value ? counts.value.added + counts.value.changed + counts.value.removed : 0))
const applied = computed(() => works.value - without.value.size)
const leftOut = computed(() => status.value?.found?.columns.filter(({ column }) => column === null) ?? [])
const hasPlan = computed(() => ['ready', 'applying', 'applied'].includes(status.value?.state ?? ''))
const applyText = computed(() => {
  if (!isReady.value) return 'Apply'
  return works.value === 0 ? 'Nothing to apply' : `Apply ${applied.value.toLocaleString('en-GB')} of ${works.value.toLocaleString('en-GB')}`
})
const isReady = computed(() => status.value?.state === 'ready')

/** What is most worth a look comes first. */
const bestOf = (): Outcome => {
  const order: Outcome[] = ['refused', 'changed', 'added', 'removed', 'same']
  return order.find((what) => counts.value && counts.value[what] > 0) ?? 'changed'
}
let lookedAt: unknown = null
watch(
  () => [status.value?.id, status.value?.state],
  ([id, state], before) => {
    if (state !== 'ready' || (before?.[0] === id && before?.[1] === 'ready')) return
    // read in another way, it goes on where somebody was looking
    if (id !== lookedAt || counts.value?.[shown.value] === 0) shown.value = bestOf()
    lookedAt = id
    without.value = new Set()
  },
  { immediate: true },
)

const scopes = computed(() => [
  { value: null, title: 'in the whole site' },
  ...lists.links.map(({ id, name }) => ({ value: id, title: `of the link ${name}` })),
])
const missingChoices = [
  { value: 'stay' as const, title: 'stay as they are' },
  { value: 'remove' as const, title: 'are removed' },
]
const change = (settings: Partial<ImportSettings>) => one.change(settings)

const apply = async () => {
  question.value = false
  await one.apply([...without.value])
  const { state, revision, name } = status.value ?? {}
  if (state !== 'applied' || !revision) return
  notices.tell(`${name} applied: ${counted(applied.value, 'tag')}.`, revision)
  await navigateTo('/tags')
}
const wish = () => {
  if (counts.value && counts.value.removed > 0) question.value = true
  else void apply()
}
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>{{ status ? status.name : 'From a spreadsheet' }}</h1>
      <ImportWay v-if="status?.found" :status="status" @change="change" />
      <span v-if="status?.revision" class="quiet">applied as revision {{ status.revision }}</span>
      <span class="fill" />
      <template v-if="status">
        <v-btn @click="one.putAway()">{{ isBusy ? 'Stop' : 'Put away' }}</v-btn>
        <BusyButton variant="flat" :busy="isBusy" :disabled="!isReady || applied === 0" @click="wish">
          {{ applyText }}
        </BusyButton>
      </template>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <FaultNote v-if="status?.fault" :fault="status.fault" class="gap" :mild="status.state === 'ready'">
      <v-btn v-if="status.state === 'unreadable'" @click="change({})">Read it again</v-btn>
    </FaultNote>
    <ImportStart v-if="!status" :busy="isBusy" @file="one.send" />
    <template v-else>
      <v-progress-linear
        v-if="isBusy"
        :model-value="status.done * 100"
        color="primary"
        :aria-label="status.state === 'applying' ? 'Applying' : 'Reading'"
      />
      <div class="top">
        <ImportCounts v-if="hasPlan" v-model="shown" :counts="status.counts" />
        <div class="sheet rules">
          <label class="rule">
            <span>Tags that it does not name</span>
            <v-select
              :model-value="status.settings.missing"
              :items="missingChoices"
              :disabled="isBusy"
              aria-label="Tags that it does not name"
              @update:model-value="change({ missing: $event })"
            />
          </label>
          <v-select
            v-if="status.settings.missing === 'remove'"
            :model-value="status.settings.link"
            :items="scopes"
            :disabled="isBusy"
            aria-label="Which of them"
            @update:model-value="change({ link: $event })"
          />
          <button v-if="status.found" type="button" class="columns-button" @click="columnsOpen = true">
            {{ counted(status.found.columns.length - leftOut.length, 'column') }} read<template v-if="leftOut.length"
              >,
              <span class="is-late"
                >{{ leftOut.length }} left out:
                {{
                  leftOut
                    .slice(0, 3)
                    .map(({ title }) => title || '(no name)')
                    .join(', ')
                }}{{ leftOut.length > 3 ? ' …' : '' }}</span
              ></template
            >
          </button>
        </div>
      </div>
      <p v-if="hasPlan && status.before !== null" class="compared">
        Compared with <span class="mono">{{ status.before }}</span>, which was taken before.
        <template v-if="status.kept">
          {{ counted(status.kept, 'tag') }} {{ status.kept === 1 ? 'keeps' : 'keep' }} what somebody changed since.</template
        >
        Tags that no file made stay.
      </p>
      <ImportLoad v-if="hasPlan" :status="status" />
      <ListFilter v-if="hasPlan" v-model="find" label="Filter by path" class="filter-line" />
      <ImportLines v-if="hasPlan" v-model:without="without" :status="status" :what="shown" :find="settledFind ?? ''" />
      <ImportColumns v-model="columnsOpen" :status="status" @change="change" />
    </template>
    <AskDialog v-model="question" :title="`Remove ${counted(counts?.removed ?? 0, 'tag')}?`" yes="Apply" no="Look again" grave @yes="apply">
      <p>They are in the site and not in this table. Like everything else, this can be taken back.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: stretch;
  gap: 10px;
  margin-bottom: 12px;
}
.compared {
  margin: 0 0 10px;
}
.filter-line {
  flex: none;
  margin-bottom: 10px;
}
.rules {
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 4px;
  padding: 6px 14px;
}
.rule {
  display: flex;
  align-items: center;
  gap: 8px;
  white-space: nowrap;
}
.columns-button {
  text-align: left;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.gap {
  margin-bottom: 12px;
}
</style>
