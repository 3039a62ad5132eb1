<script setup lang="ts">
import { isLevel, limitKinds, limitName, severities, type Limit, type LimitKind } from '#core/alarms/limits'
import { limitWords, severityWords } from '#core/alarms/words'
import { isNumeric, type DataType } from '#core/tags/types'
import type { ValueName } from '#core/tags/valueNames'
import { typedValue } from '~/equipment/typed'

/** From where on a value is an alarm: each limit as a frame of its own. */
const limits = defineModel<Limit[]>({ required: true })
const props = defineProps<{
  type: DataType
  unit: string
  names: readonly ValueName[]
  /** Of a field below the limits, as in 0.at. */
  message(field: string): string
}>()
const emit = defineEmits<{ left: [field: string] }>()

const titles: Record<LimitKind, string> = {
  higher: 'higher',
  high: 'high',
  low: 'low',
  lower: 'lower',
  rate: 'rate of change',
  state: 'a state',
}
const kinds = computed(() =>
  limitKinds.filter((kind) => kind === 'state' || isNumeric(props.type)).map((value) => ({ value, title: titles[value] })),
)
const severityChoices = severities.map((value) => ({ value, title: severityWords[value] }))
const ways = [
  { value: 'either' as const, title: 'either way' },
  { value: 'rising' as const, title: 'rising' },
  { value: 'falling' as const, title: 'falling' },
]
const common = ({ name, delay, severity, text, acknowledge }: Limit) => ({ name, delay, severity, text, acknowledge })
const blank = (kind: LimitKind, before?: Limit): Limit => {
  const shared = before ? common(before) : { name: '', delay: 0, severity: 'caution' as const, text: '', acknowledge: true }
  const at = before && 'at' in before ? before.at : NaN
  if (kind === 'state') return { ...shared, kind, not: false, values: [] }
  if (kind === 'rate') return { ...shared, kind, at, way: 'either', over: 1000, band: 0 }
  return { ...shared, kind, at, band: 0 }
}
const add = () => {
  const taken = new Set(limits.value.map(({ kind }) => kind))
  const free = (isNumeric(props.type) ? (['high', 'low', 'higher', 'lower', 'rate', 'state'] as const) : (['state'] as const)).find(
    (kind) => !taken.has(kind),
  )
  limits.value = [...limits.value, blank(free ?? 'state')]
}
const change = (i: number, kind: LimitKind) => (limits.value = limits.value.map((one, k) => (k === i ? blank(kind, one) : one)))
const drop = (i: number) => (limits.value = limits.value.filter((_, k) => k !== i))

const statesText = (limit: Limit) => (limit.kind === 'state' ? limit.values.map(String).join(', ') : '')
const takeStates = (i: number, text: string) => {
  const limit = limits.value[i]!
  if (limit.kind !== 'state') return
  const typed = text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)
  const named = new Map(props.names.map(({ value, name }) => [name.toLowerCase(), props.type === 'bool' ? value === 1 : value]))
  limit.values = typed.map((part) => named.get(part.toLowerCase()) ?? (typedValue(part, stateType.value) as boolean | number | string))
}
const stateType = computed(() => (props.type === 'bool' || props.type === 'string' ? props.type : 'float64'))
const seconds = (ms: number) => (Number.isFinite(ms) ? ms / 1000 : null)
const setSeconds = (i: number, field: 'delay' | 'over', value: number | null) => {
  const limit = limits.value[i]! as Limit & Record<'delay' | 'over', number>
  limit[field] = value === null ? 0 : Math.round(value * 1000)
}
const isTold = (limit: Limit) => (limit.kind === 'state' ? limit.values.length > 0 : Number.isFinite(limit.at))
</script>

<template>
  <fieldset v-for="(limit, i) in limits" :key="i" class="framed">
    <legend>{{ limitName(limit) }}</legend>
    <div class="row">
      <ChoiceField
        :model-value="limit.kind"
        label="Limit"
        :choices="kinds"
        :message="message(`${i}.kind`)"
        @update:model-value="change(i, $event)"
      />
      <template v-if="limit.kind === 'state'">
        <ChoiceField
          v-model="limit.not"
          label="It is an alarm while it is"
          :choices="[
            { value: false, title: 'one of these' },
            { value: true, title: 'none of these' },
          ]"
        />
        <TextField
          :model-value="statesText(limit)"
          label="Values"
          mono
          placeholder="3, 4"
          :message="message(`${i}.values`) || message(`${i}.values.0`)"
          @update:model-value="takeStates(i, $event)"
          @left="emit('left', `${i}.values`)"
        />
      </template>
      <template v-else>
        <NumberField
          v-model="limit.at as number | null"
          :label="limit.kind === 'rate' ? 'Faster than, a second' : 'At'"
          :unit="unit"
          :message="message(`${i}.at`)"
          @left="emit('left', `${i}.at`)"
        />
        <ChoiceField v-if="limit.kind === 'rate'" v-model="limit.way" label="Which way" :choices="ways" />
        <NumberField
          v-if="limit.kind === 'rate'"
          :model-value="seconds(limit.over)"
          label="Measured over"
          unit="s"
          :message="message(`${i}.over`)"
          @update:model-value="setSeconds(i, 'over', $event)"
          @left="emit('left', `${i}.over`)"
        />
        <NumberField
          v-model="limit.band as number | null"
          label="Over when back by"
          :unit="unit"
          :message="message(`${i}.band`)"
          @left="emit('left', `${i}.band`)"
        />
      </template>
      <NumberField
        :model-value="seconds(limit.delay)"
        label="Only after"
        unit="s"
        :message="message(`${i}.delay`)"
        @update:model-value="setSeconds(i, 'delay', $event)"
        @left="emit('left', `${i}.delay`)"
      />
      <ChoiceField v-model="limit.severity" label="It counts as" :choices="severityChoices" />
      <TextField
        v-model="limit.name"
        label="Name"
        :placeholder="limit.kind"
        :message="message(`${i}.name`)"
        @left="emit('left', `${i}.name`)"
      />
      <TextField
        v-model="limit.text"
        class="text"
        label="What somebody who sees it should know"
        :placeholder="isTold(limit) ? `${limitName(limit)}: ${limitWords(limit, unit, names)}` : ''"
        :message="message(`${i}.text`)"
        @left="emit('left', `${i}.text`)"
      />
    </div>
    <div class="foot">
      <v-checkbox v-model="limit.acknowledge" label="Somebody has to say that it was seen" />
      <v-btn height="26" @click="drop(i)">Drop</v-btn>
    </div>
    <p v-if="isLevel(limit) && limit.band === 0 && limit.delay === 0" class="quiet small">
      A value that moves about the limit raises it again and again: a way back or a delay prevents that.
    </p>
  </fieldset>
  <p v-if="message('')" class="is-broken">{{ message('') }}</p>
  <div class="add"><v-btn height="28" @click="add">Add a limit</v-btn></div>
</template>

<style scoped>
.framed,
.add {
  grid-column: 1 / -1;
}
.row {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
  align-items: start;
}
.text {
  grid-column: span 2;
}
.foot {
  display: flex;
  align-items: center;
  gap: 16px;
  margin-top: 6px;
}
.small {
  font-size: 12px;
  margin: 4px 0 0;
}
</style>
