<script setup lang="ts">
import { agrees, wayText, ways, type CheckWay, type Outcome } from '#core/checks/state'
import { qualityText, severityOf } from '#core/tags/quality'
import { namedText } from '#core/tags/valueNames'
import { momentText } from '#core/text/moment'
import { showChecksOf } from '#shared/api/checks'
import { writeValue } from '#shared/api/tags'
import type { CheckDraft, CheckedOnce, CheckPoint } from '#shared/checks'

/** Checks one point: what is expected, what is seen here, how, and what came of it. */
const props = defineProps<{ sheet: number; point: CheckPoint; closed: boolean }>()
const emit = defineEmits<{ check: [draft: CheckDraft]; next: [] }>()
const live = useLive()
const session = useSession()
const form = reactive({ way: 'set' as CheckWay, expected: '', seen: '', remark: '', attaches: true })
const history = shallowRef<CheckedOnce[]>([])
const loadHistory = async () => {
  const { sheet: id, point } = props
  history.value = point.checks === 0 ? [] : await callApi(showChecksOf, { params: { id }, query: { tag: point.tag } }).catch(() => [])
}
watch(
  () => props.point.tag,
  (tag) => {
    Object.assign(form, { expected: '', seen: '', remark: '' })
    live.showOrigin(tag)
  },
  { immediate: true },
)
watch(() => [props.point.tag, props.point.checks], loadHistory, { immediate: true })
onUnmounted(() => live.showOrigin(null))

const value = computed(() => live.values.get(props.point.tag))
const shown = computed(() => (value.value ? namedText(value.value.value, props.point.names, props.point.type) : ''))
const severity = computed(() => (value.value ? severityOf(value.value.quality) : null))
const verdict = computed(() => agrees(form.expected, form.seen))
const origin = computed(() => (live.origin?.tag === props.point.tag ? live.origin.origin : null))

const write = async (to: boolean | number | string) => {
  const { readBack } = await callApi(writeValue, { params: { id: props.point.tag }, body: { value: to } })
  form.way = 'written'
  form.expected = String(to)
  return readBack
}
const evidence = () =>
  form.attaches && value.value
    ? {
        ...{ at: Date.now(), value: shown.value.slice(0, 400), quality: value.value.quality },
        stages: (origin.value?.stages ?? []).slice(0, 20).map(({ title, text, detail }) => ({
          ...{ title: title.slice(0, 400), text: text.slice(0, 2000), detail: detail.slice(0, 2000) },
        })),
      }
    : null
const save = (outcome: Outcome) => {
  const { way, expected, seen, remark } = form
  emit('check', {
    key: crypto.randomUUID(),
    tag: props.point.tag,
    at: Date.now(),
    way,
    expected,
    seen,
    outcome,
    remark,
    evidence: evidence(),
  })
  emit('next')
}
const wayChoices = ways.map((way) => ({ value: way, title: wayText[way] }))
const mayCheck = computed(() => session.can('operate') && !props.closed && props.point.state !== 'gone')
</script>

<template>
  <p class="now">
    <span class="value mono">{{ severity === 'bad' && value?.value === null ? '—' : shown }} {{ point.unit }}</span>
    <span :class="{ 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }">{{
      value ? qualityText(value.quality) : '—'
    }}</span>
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
      v-if="point.writable"
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
      <div>
        <TextField v-model="form.seen" label="Seen here" :suffix="point.unit" />
        <button type="button" class="take" :disabled="!value" @click="form.seen = shown">Take what is here now</button>
      </div>
    </div>
    <p v-if="verdict !== null" :class="verdict ? 'quiet' : 'is-late'">{{ verdict ? 'They agree.' : 'They do not agree.' }}</p>
    <TextField v-model="form.remark" label="Remark" />
    <label class="attach"><input v-model="form.attaches" type="checkbox" /> Keep how the value was made, from its bytes</label>
    <div class="outcomes">
      <v-btn type="submit" variant="flat" color="primary">Good</v-btn>
      <v-btn color="break" @click="save('bad')">Not good</v-btn>
      <v-btn @click="save('open')">Leave open</v-btn>
    </div>
  </form>
  <section v-if="history.length > 0">
    <h3>Checked</h3>
    <ul class="history">
      <li v-for="(one, i) in history" :key="i">
        <strong :class="{ 'is-broken': one.outcome === 'bad', 'is-late': one.outcome === 'open' }">{{
          one.outcome === 'bad' ? 'not good' : one.outcome
        }}</strong>
        {{ one.who }}, {{ momentText(one.at) }}, {{ wayText[one.way] }}
        <span class="quiet">expected {{ one.expected || '—' }}, seen {{ one.seen || '—' }}{{ one.remark ? `: ${one.remark}` : '' }}</span>
      </li>
    </ul>
  </section>
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
  gap: 10px;
  margin: 10px 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.take {
  font-size: 12px;
  color: rgb(var(--v-theme-primary));
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
