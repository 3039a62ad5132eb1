<script setup lang="ts">
import { v4 as uuid } from 'uuid'
import { agrees, wayText, ways, type CheckWay, type Outcome } from '#core/checks/state'
import { qualityText, severityOf } from '#core/tags/quality'
import { namedText } from '#core/tags/valueNames'
import { momentText } from '#core/text/moment'
import { showChecksOf, takeEvidence } from '#shared/api/checks'
import { writeValue } from '#shared/api/tags'
import type { CheckDraft, CheckedOnce, CheckEvidence, CheckPoint } from '#shared/checks'

/** Checks one point: what is expected, what is seen here, how, and what came of it. */
const props = defineProps<{ sheet: number; point: CheckPoint; closed: boolean }>()
const emit = defineEmits<{ check: [draft: CheckDraft]; next: []; remove: [] }>()
const live = useLive()
const session = useSession()
const form = reactive({ way: 'set' as CheckWay, expected: '', seen: '', remark: '' })
const evidence = shallowRef<CheckEvidence | null>(null)
const taking = useAttempt()
const history = shallowRef<CheckedOnce[]>([])
const loadHistory = async () => {
  const { sheet: id, point } = props
  history.value = point.checks === 0 ? [] : await callApi(showChecksOf, { params: { id }, query: { tag: point.tag } }).catch(() => [])
}
const clear = () => {
  Object.assign(form, { expected: '', seen: '', remark: '' })
  evidence.value = null
  taking.refused.value = null
}
watch(() => props.point.tag, clear)
watch(() => [props.point.tag, props.point.checks], loadHistory, { immediate: true })

const value = computed(() => (live.connected ? live.values.get(props.point.tag) : undefined))
const shown = computed(() => (value.value ? namedText(value.value.value, props.point.names, props.point.type) : ''))
const severity = computed(() => (value.value ? severityOf(value.value.quality) : null))
const verdict = computed(() => agrees(form.expected, form.seen))

const write = async (to: boolean | number | string) => {
  const { readBack } = await callApi(writeValue, { params: { id: props.point.tag }, body: { value: to } })
  form.way = 'written'
  form.expected = String(to)
  return readBack
}
/** Reads it anew, and keeps it with its bytes and frames. */
const take = () =>
  taking.attempt(async () => {
    const { sheet: id, point } = props
    const taken = await callApi(takeEvidence, { params: { id }, body: { tag: point.tag } })
    if (props.point.tag !== point.tag) return
    evidence.value = taken
    form.seen = taken.value
  })
const save = (outcome: Outcome) => {
  emit('check', { key: uuid(), tag: props.point.tag, at: Date.now(), ...form, outcome, evidence: evidence.value })
  emit('next')
  clear()
}
const wayChoices = ways.map((way) => ({ value: way, title: wayText[way] }))
const mayCheck = computed(() => session.can('operate') && !props.closed && props.point.state !== 'gone')
</script>

<template>
  <p class="now">
    <template v-if="value">
      <span class="value mono">{{ severity === 'bad' && value.value === null ? '—' : shown }} {{ point.unit }}</span>
      <span :class="{ 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }">{{ qualityText(value.quality) }}</span>
    </template>
    <span v-else class="quiet">{{ live.connected ? 'No value yet' : 'No connection to the site, so no value from it' }}</span>
  </p>
  <p class="quiet">{{ point.source }}</p>
  <section v-if="point.changed.length > 0 && point.last" class="again">
    <strong>Another thing since {{ momentText(point.last.at) }}</strong>
    <ul>
      <li v-for="one in point.changed" :key="one.field">
        <code>{{ one.field }}</code> {{ one.before ?? 'none' }} → {{ one.after ?? 'none' }}
      </li>
    </ul>
  </section>
  <form v-if="mayCheck" class="form" @submit.prevent="save('good')">
    <WriteField
      v-if="point.writable && live.connected"
      :type="point.type"
      :unit="point.unit"
      :names="point.names"
      holder="The device"
      :to="point.tag"
      :write="write"
    />
    <ChoiceField v-model="form.way" label="How" :choices="wayChoices" />
    <div class="two">
      <TextField v-model="form.expected" label="Expected" :suffix="point.unit" />
      <TextField v-model="form.seen" label="Seen here" :suffix="point.unit" />
    </div>
    <p v-if="verdict !== null" class="verdict" :class="verdict ? 'quiet' : 'is-late'">
      {{ verdict ? 'They agree.' : 'They do not agree.' }}
    </p>
    <AttachedEvidence v-if="evidence" :evidence="evidence" :unit="point.unit">
      <button type="button" class="drop" @click.prevent="evidence = null">Leave out</button>
    </AttachedEvidence>
    <BusyButton
      v-else
      :busy="taking.busy.value"
      :disabled="!live.connected"
      title="The value, how it is made, and its frames"
      @click="take"
    >
      Take what is read now
    </BusyButton>
    <FaultNote v-if="taking.refused.value" :fault="taking.refused.value.why" mild />
    <TextField v-model="form.remark" label="Remark" />
    <div class="outcomes">
      <v-btn type="submit" variant="flat" color="primary">Good</v-btn>
      <v-btn color="break" @click="save('bad')">Not good</v-btn>
      <v-btn @click="save('open')">Leave open</v-btn>
    </div>
  </form>
  <section v-if="history.length > 0">
    <h3>Checked</h3>
    <ul class="history">
      <li v-for="one in history" :key="one.id">
        <strong :class="{ 'is-broken': one.outcome === 'bad', 'is-late': one.outcome === 'open' }">{{
          one.outcome === 'bad' ? 'not good' : one.outcome
        }}</strong>
        {{ one.who }}, {{ momentText(one.at) }}, {{ wayText[one.way] }}
        <span class="quiet">expected {{ one.expected || '—' }}, seen {{ one.seen || '—' }}{{ one.remark ? `: ${one.remark}` : '' }}</span>
        <AttachedEvidence v-if="one.evidence" :evidence="one.evidence" :unit="point.unit" />
      </li>
    </ul>
  </section>
  <Allowed v-if="!closed" role="operate">
    <v-btn class="off" @click="$emit('remove')">Take it off the sheet…</v-btn>
  </Allowed>
</template>

<style scoped>
.now {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin: 4px 0;
}
.value {
  font-size: 20px;
  overflow-wrap: anywhere;
}
.form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
  margin: 10px 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.verdict {
  margin: 0;
}
.drop {
  margin-left: 8px;
  color: rgb(var(--v-theme-primary));
}
.off {
  margin-top: 16px;
}
.outcomes {
  display: flex;
  gap: 8px;
}
.again {
  margin: 8px 0;
  padding: 8px 10px;
  border-left: 4px solid var(--copper);
}
.again ul,
.history {
  margin: 4px 0 0;
  padding-left: 16px;
}
.history .quiet {
  display: block;
}
h3 {
  font-size: 13px;
  margin: 10px 0 0;
}
</style>
