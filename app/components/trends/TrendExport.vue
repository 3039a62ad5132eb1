<script setup lang="ts">
import type { Delimiter } from '#core/formats/csv/dialect'
import { decimalSigns, type DecimalSign } from '#core/formats/csv/numbers'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { historyCsv, historyParquet } from '#shared/api/history'
import { addressOf } from '#shared/api/operation'

/** What is drawn as a file: single samples or buckets, as CSV or Parquet. */
const props = defineProps<{ series: readonly number[]; span: { from: number; to: number } }>()
const open = ref(false)
const of = ref<'sample' | 'second' | 'minute' | 'hour'>('sample')
const form = ref<'csv' | 'parquet'>('csv')
const delimiter = ref<Delimiter>(',')
const decimal = ref<DecimalSign>('.')
const ofChoices = [
  { value: 'sample' as const, title: 'Every sample', subtitle: 'value, quality and time as they came' },
  { value: 'minute' as const, title: 'Minutes', subtitle: 'least, most, mean by time, first, last' },
  { value: 'hour' as const, title: 'Hours', subtitle: 'the same of each hour' },
]
const formChoices = [
  { value: 'csv' as const, title: 'CSV', subtitle: 'for spreadsheets' },
  { value: 'parquet' as const, title: 'Parquet', subtitle: 'for data tools; columns keep their types' },
]
const delimiterChoices: { value: Delimiter; title: string }[] = [
  { value: ',', title: 'comma' },
  { value: ';', title: 'semicolon' },
  { value: '\t', title: 'tab' },
]
const decimalChoices = decimalSigns.map((value) => ({ value, title: `1${value}5` }))
const address = computed(() => {
  const query = { series: props.series.join(','), from: Math.round(props.span.from), to: Math.round(props.span.to), of: of.value }
  return form.value === 'csv'
    ? `/api${addressOf(historyCsv, { query: { ...query, delimiter: delimiter.value, decimal: decimal.value } })}`
    : `/api${addressOf(historyParquet, { query })}`
})
</script>

<template>
  <v-btn @click="open = true">Export …</v-btn>
  <v-dialog v-model="open" max-width="480" aria-label="Export">
    <div class="sheet dialog">
      <h2 class="sheet-title">{{ counted(series.length, 'series', 'series') }} over {{ duration(span.to - span.from) }}</h2>
      <ChoiceField v-model="of" label="What" :choices="ofChoices" />
      <ChoiceField v-model="form" label="As" :choices="formChoices" />
      <div v-if="form === 'csv'" class="two">
        <ChoiceField v-model="delimiter" label="Between cells" :choices="delimiterChoices" />
        <ChoiceField v-model="decimal" label="Decimal sign" :choices="decimalChoices" />
      </div>
      <div class="buttons">
        <v-btn variant="flat" :href="address" :download="`history.${form}`" @click="open = false">Save the file</v-btn>
        <v-btn @click="open = false">Cancel</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.dialog {
  display: grid;
  gap: 12px;
  padding: 18px 20px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
