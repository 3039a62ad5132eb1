<script setup lang="ts">
import { refDebounced, useIntervalFn } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { ageText } from '#core/text/duration'
import type { Alarm, AlarmsMatching } from '#shared/alarms'
import { acknowledgeAlarms, commentAlarm, listAlarms } from '#shared/api/alarms'
import { mostOfPage } from '#shared/api/lists'

/** Limits that are crossed, and those that were and nobody saw yet. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const find = ref('')
const settledFind = refDebounced(find, 250)
const alarms = shallowRef<Alarm[]>([])
const total = ref(0)
const loaded = ref(false)
const now = computed(() => live.status?.now ?? Date.now())
/** When what stands here was asked for, or its newest was raised: the clock here is a second behind. */
const listedAt = ref(0)
const refused = shallowRef<Refused | null>(null)
const page = 100
const most = ref(page)

/** What says the same as before is the same, and is not drawn anew. */
const asBefore = (listed: readonly Alarm[]): Alarm[] => {
  const known = new Map(alarms.value.map((one) => [one.key, one]))
  return listed.map((one) => {
    const before = known.get(one.key)
    return before && JSON.stringify(before) === JSON.stringify(one) ? before : one
  })
}
const load = async () => {
  const [asked, askedAt] = [settledFind.value, now.value]
  try {
    const listed = await callApi(listAlarms, { query: { find: asked || undefined, limit: most.value } })
    if (asked !== settledFind.value) return
    alarms.value = asBefore(listed.items)
    total.value = listed.total
    listedAt.value = Math.max(askedAt, ...listed.items.map(({ since }) => since))
    loaded.value = true
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(settledFind, () => (most.value = page))
watch([settledFind, most, () => JSON.stringify(live.status?.alarms ?? null)], load, { immediate: true })
useIntervalFn(load, 2000)

const chosen = ref(new Set<string>())
const unseen = computed(() => alarms.value.filter(({ seen }) => !seen))
const chosenUnseen = computed(() => unseen.value.filter(({ key }) => chosen.value.has(key)))
const choose = (key: string, on: boolean | null) => {
  const next = new Set(chosen.value)
  if (on) next.add(key)
  else next.delete(key)
  chosen.value = next
}
const all = computed({
  get: () => unseen.value.length > 0 && chosenUnseen.value.length === unseen.value.length,
  set: (on: boolean) => (chosen.value = new Set(on ? unseen.value.map(({ key }) => key) : [])),
})

const asking = ref<'acknowledge' | 'comment' | null>(null)
const ofOne = ref('')
const { busy, refused: notDone, attempt } = useAttempt()
const isAsking = computed({
  get: () => asking.value !== null,
  set: (on) => {
    if (!on) asking.value = null
  },
})
const ask = (what: 'acknowledge' | 'comment', key = '') => {
  ofOne.value = key
  ofAll.value = null
  notDone.value = null
  asking.value = what
}
/** All that the filter finds, beyond those that stand here. */
const beyond = computed(() => all.value && total.value > alarms.value.length)
/** As they stood when somebody said so: what comes while one writes is not among them. */
const ofAll = ref<AlarmsMatching | null>(null)
const askForAll = () => {
  ask('acknowledge')
  ofAll.value = { find: settledFind.value ?? '', until: listedAt.value }
}
const keys = computed(() => (ofOne.value === '' ? chosenUnseen.value.map(({ key }) => key) : [ofOne.value]))
const say = (comment: string) =>
  attempt(async () => {
    if (asking.value === 'comment') await callApi(commentAlarm, { body: { key: ofOne.value, comment } })
    else {
      const which = ofAll.value ? { matching: ofAll.value } : { keys: keys.value }
      const { acknowledged } = await callApi(acknowledgeAlarms, { body: { ...which, comment } })
      notices.tell(`${counted(acknowledged, 'alarm')} acknowledged.`)
      chosen.value = new Set()
    }
    asking.value = null
    await load()
  })

const limits = computed(() => live.status?.alarms.limits ?? 0)
</script>

<template>
  <div class="page">
    <AlarmsHead>
      <v-text-field
        v-model="find"
        data-filter
        class="filter"
        placeholder="Filter by tag or words"
        aria-label="Filter by tag or words"
        clearable
      />
      <span class="quiet">{{ counted(limits, 'limit') }} watched</span>
      <span class="fill" />
      <v-btn v-if="beyond" @click="askForAll">Acknowledge all {{ total.toLocaleString('en-GB') }}{{ settledFind ? ' found' : '' }}…</v-btn>
      <v-btn v-if="session.can('operate')" variant="flat" :disabled="chosenUnseen.length === 0" @click="ask('acknowledge')"
        >Acknowledge {{ chosenUnseen.length || '' }}…</v-btn
      >
    </AlarmsHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <EmptyState
      v-if="loaded && alarms.length === 0 && !settledFind"
      :title="limits > 0 ? 'Nothing is beyond its limits' : 'No tag has limits yet'"
      :text="
        limits > 0
          ? 'What crosses a limit stands here until it is over and somebody saw it.'
          : 'Limits are set on the sheet of a tag, or on a property of a class for all of its equipment.'
      "
    >
      <v-btn v-if="limits === 0" variant="flat" to="/tags">To the tags</v-btn>
      <v-btn v-else to="/alarms/past">What became of earlier ones</v-btn>
    </EmptyState>
    <section v-else class="sheet">
      <table class="rows">
        <thead>
          <tr>
            <th class="box">
              <v-checkbox v-if="session.can('operate')" v-model="all" aria-label="All that nobody saw" :disabled="unseen.length === 0" />
              <span v-else class="visually-hidden">Chosen</span>
            </th>
            <th>It is</th>
            <th>Counts as</th>
            <th>Tag</th>
            <th>What happened</th>
            <th>Since</th>
            <th>Seen by</th>
            <th>Said of it</th>
          </tr>
        </thead>
        <tbody>
          <AlarmRow
            v-for="one in alarms"
            :key="one.key"
            :alarm="one"
            :chosen="chosen.has(one.key)"
            :may-operate="session.can('operate')"
            :since="ageText(now - one.since)"
            :over="one.over === null ? '' : ageText(now - one.over)"
            :seen-since="one.seen ? ageText(now - one.seen.at) : ''"
            @choose="choose(one.key, $event)"
            @acknowledge="ask('acknowledge', one.key)"
            @comment="ask('comment', one.key)"
          />
          <tr v-if="alarms.length === 0">
            <td colspan="8" class="quiet">{{ loaded ? `No alarm goes by “${settledFind}”.` : '…' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="total > alarms.length" class="quiet more">
        and {{ (total - alarms.length).toLocaleString('en-GB') }} more; the filter finds them.
        <v-btn v-if="alarms.length < mostOfPage" height="24" @click="most = Math.min(mostOfPage, most + 2 * page)">Show more</v-btn>
      </p>
    </section>
    <AcknowledgeDialog
      v-model="isAsking"
      :count="ofAll ? total : keys.length"
      :only="asking ?? 'acknowledge'"
      :busy="busy"
      :refused="notDone"
      @done="say"
    />
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.box {
  width: 40px;
}
.more {
  padding: 0 12px 10px;
}
</style>
