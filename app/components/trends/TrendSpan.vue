<script setup lang="ts">
import { duration } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import { readMoment, readSpan } from '#core/text/readMoment'
import type { TrendContent } from '#shared/trendSet'

/** The span that is drawn, as a sentence: the last so long, live; or from a moment on; and what is drawn beside. */
const span = defineModel<TrendContent['span']>('span', { required: true })
const beside = defineModel<TrendContent['beside']>('beside', { required: true })

const minute = 60_000
const hour = 60 * minute
const day = 24 * hour
const usual = [minute, 10 * minute, hour, 6 * hour, day, 7 * day, 30 * day, 365 * day]
const open = ref<'length' | 'from' | 'beside' | null>(null)
const text = ref('')
const problem = ref('')
const turn = (part: 'length' | 'from' | 'beside', present: string) => {
  open.value = open.value === part ? null : part
  text.value = present
  problem.value = ''
}

const setLength = (length: number) => {
  span.value = { ...span.value, length: Math.min(Math.max(length, 1000), 3_153_600_000_000) }
  open.value = null
}
const typeLength = () => {
  const length = readSpan(text.value)
  if (length === null || length < 1000) return void (problem.value = 'A span is written as 90 s, 10 min, 6 h, 3 d, 2 w or 1 y.')
  setLength(length)
}
const typeFrom = () => {
  const from = readMoment(text.value)
  if (from === null) return void (problem.value = 'A moment is written as 2026-11-25 14:06, by the clock of this machine.')
  span.value = { kind: 'fixed', from, length: span.value.length }
  open.value = null
}
const besides = computed(() => [
  { title: 'nothing', value: null },
  { title: 'the span before', value: span.value.length },
  { title: 'the day before', value: day },
  { title: 'the week before', value: 7 * day },
])
const besideText = computed(() => {
  const { value } = beside
  if (value === null) return 'nothing'
  return besides.value.find((one) => one.value === value)?.title ?? `${duration(value)} earlier`
})
const setBeside = (value: number | null) => {
  beside.value = value
  open.value = null
}
const typeBeside = () => {
  const earlier = readSpan(text.value)
  if (earlier === null || earlier < 1000) return void (problem.value = 'How much earlier is written as 6 h, 3 d or 1 y.')
  setBeside(earlier)
}
const fromText = computed(() => (span.value.kind === 'fixed' ? momentText(span.value.from) : ''))
</script>

<template>
  <div class="span">
    <span v-if="span.kind === 'live'">the last</span>
    <template v-else>
      <span>from</span>
      <SentencePart :text="fromText" :open="open === 'from'" :wrong="false" @press="turn('from', fromText)" />
      <span>for</span>
    </template>
    <SentencePart :text="duration(span.length)" :open="open === 'length'" :wrong="false" @press="turn('length', '')" />
    <span v-if="span.kind === 'live'" class="live">live,</span>
    <span>beside</span>
    <SentencePart :text="besideText" :open="open === 'beside'" :wrong="false" @press="turn('beside', '')" />
    <div v-if="open" class="sheet choices" @keydown.esc.stop="open = null">
      <template v-if="open === 'length'">
        <div class="usual">
          <v-btn v-for="length in usual" :key="length" size="small" @click="setLength(length)">{{ duration(length) }}</v-btn>
        </div>
        <form @submit.prevent="typeLength">
          <TextField v-model="text" label="Or another span" :message="problem" placeholder="90 min" mono />
          <v-btn type="submit">Show it</v-btn>
        </form>
      </template>
      <form v-else-if="open === 'from'" @submit.prevent="typeFrom">
        <TextField v-model="text" label="From" :message="problem" placeholder="2026-11-25 05:00" mono />
        <v-btn type="submit">Show it</v-btn>
      </form>
      <template v-else>
        <div class="usual">
          <v-btn v-for="one in besides" :key="one.title" size="small" @click="setBeside(one.value)">{{ one.title }}</v-btn>
        </div>
        <form @submit.prevent="typeBeside">
          <TextField v-model="text" label="Or so much earlier" :message="problem" placeholder="3 d" mono />
          <v-btn type="submit">Show it</v-btn>
        </form>
      </template>
    </div>
  </div>
</template>

<style scoped>
.span {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  color: var(--quiet);
}
.span :deep(.part) {
  color: var(--ink);
}
.live {
  color: var(--primary);
  font-weight: 500;
}
.choices {
  position: absolute;
  top: 100%;
  left: 0;
  z-index: 5;
  width: 380px;
  margin-top: 6px;
  padding: 12px 14px;
  box-shadow: 0 6px 20px rgba(0, 0, 0, 0.15);
}
.usual {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
form {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
  align-items: end;
}
</style>
