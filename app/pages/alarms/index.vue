<script setup lang="ts">
import { refDebounced, useIntervalFn } from '@vueuse/core'
import { severityWords } from '#core/alarms/words'
import { counted } from '#core/text/counted'
import { ageText } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import type { Alarm } from '#shared/alarms'
import { acknowledgeAlarms, commentAlarm, listAlarms } from '#shared/api/alarms'

/** Limits that are crossed, and those that were and nobody saw yet. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const find = ref('')
const settledFind = refDebounced(find, 250)
const alarms = shallowRef<Alarm[]>([])
const total = ref(0)
const loaded = ref(false)
const refused = shallowRef<Refused | null>(null)
const mostShown = 500

const load = async () => {
  const asked = settledFind.value
  try {
    const page = await callApi(listAlarms, { query: { find: asked || undefined, limit: mostShown } })
    if (asked !== settledFind.value) return
    alarms.value = page.items
    total.value = page.total
    loaded.value = true
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch([settledFind, () => JSON.stringify(live.status?.alarms ?? null)], load, { immediate: true })
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
  notDone.value = null
  asking.value = what
}
const keys = computed(() => (ofOne.value === '' ? chosenUnseen.value.map(({ key }) => key) : [ofOne.value]))
const say = (comment: string) =>
  attempt(async () => {
    if (asking.value === 'comment') await callApi(commentAlarm, { body: { key: ofOne.value, comment } })
    else {
      const { acknowledged } = await callApi(acknowledgeAlarms, { body: { keys: keys.value, comment } })
      notices.tell(`${counted(acknowledged, 'alarm')} acknowledged.`)
      chosen.value = new Set()
    }
    asking.value = null
    await load()
  })

const now = computed(() => live.status?.now ?? Date.now())
const severityClass = { note: 'quiet', caution: 'is-late', trouble: 'is-broken' } as const
const stateText = ({ active, isUnknown }: Alarm) => (active ? (isUnknown ? 'active, value unknown' : 'active') : 'over')
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
          <tr v-for="one in alarms" :key="one.key" :class="{ unseen: !one.seen }">
            <td class="box">
              <v-checkbox
                v-if="session.can('operate') && !one.seen"
                :model-value="chosen.has(one.key)"
                :aria-label="`${one.path}, ${one.limit}`"
                @update:model-value="choose(one.key, $event)"
              />
            </td>
            <td class="state">
              <strong v-if="one.active" :class="severityClass[one.severity]">{{ stateText(one) }}</strong>
              <span v-else class="quiet">{{ stateText(one) }}</span>
              <span v-if="one.count > 1" class="below quiet">{{ one.count }} times</span>
            </td>
            <td :class="severityClass[one.severity]">{{ severityWords[one.severity] }}</td>
            <td class="mono wrap">
              <NuxtLink :to="`/tags?tag=${one.tagId}`">{{ one.path }}</NuxtLink>
            </td>
            <td class="wrap">
              {{ one.text }}
              <NuxtLink :to="`/trends?tags=${one.tagId}`" class="small">trend</NuxtLink>
            </td>
            <td class="when" :title="momentText(new Date(one.since).toISOString())">
              {{ ageText(now - one.since) }}
              <span v-if="one.over !== null" class="below quiet">over {{ ageText(now - one.over) }}</span>
            </td>
            <td class="when">
              <template v-if="one.seen"
                >{{ one.seen.by || 'nobody has to'
                }}<span v-if="one.seen.by" class="below quiet">{{ ageText(now - one.seen.at) }}</span></template
              >
              <v-btn v-else-if="session.can('operate')" height="24" @click="ask('acknowledge', one.key)">Acknowledge…</v-btn>
              <span v-else class="is-late">nobody yet</span>
            </td>
            <td class="wrap">
              <template v-if="one.comment"
                >{{ one.comment.text }} <span class="quiet">{{ one.comment.by }}</span></template
              >
              <button
                v-if="session.can('operate')"
                type="button"
                class="say"
                :aria-label="`Comment on ${one.path}, ${one.limit}`"
                @click="ask('comment', one.key)"
              >
                {{ one.comment ? 'change' : 'comment' }}
              </button>
            </td>
          </tr>
          <tr v-if="alarms.length === 0">
            <td colspan="8" class="quiet">{{ loaded ? `No alarm goes by “${settledFind}”.` : '…' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="total > alarms.length" class="quiet more">
        and {{ (total - alarms.length).toLocaleString('en-GB') }} more; the filter finds them.
      </p>
    </section>
    <AcknowledgeDialog
      v-model="isAsking"
      :count="keys.length"
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
.unseen {
  background: var(--tint);
}
.state,
.when {
  white-space: nowrap;
}
.below {
  display: block;
  font-size: 12px;
}
.wrap {
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
.say {
  color: var(--primary);
  font-size: 12px;
}
.more {
  padding: 0 12px 10px;
}
</style>
