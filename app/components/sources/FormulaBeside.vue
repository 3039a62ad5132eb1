<script setup lang="ts">
import { readFormula } from '#core/formulas/compile'
import { frameOf } from '#core/formulas/frame'
import { formulaConstants, formulaFunctions, inputFunctions } from '#core/formulas/functions'
import { asInput, resultAs } from '#core/formulas/result'
import { qualityText } from '#core/tags/quality'
import { behindValue } from '#core/tags/valueNames'
import { valueText } from '#core/text/number'
import type { FormulaSource } from '#shared/sources/formula'
import type { Drawn } from '#shared/sources/source'

/** What comes of the formula with what its inputs have now, and the words of the language. */
const draft = defineModel<Drawn<FormulaSource>>({ required: true })
const inputs = computed(() => draft.value.source.inputs)
const read = computed(() => readFormula(draft.value.source.formula))
const names = computed(() => (read.value.ok ? read.value.formula.names : []))
const { tags, valueOf } = useTagsByPath('formula', () => names.value.map((name) => inputs.value[name] ?? ''))

const rows = computed(() =>
  names.value.map((name) => {
    const path = inputs.value[name] ?? ''
    const live = valueOf(path)
    return { name, path, live, tag: tags.get(path) }
  }),
)
const isComplete = computed(() => rows.value.every(({ live }) => live && live.value !== null))
const result = computed(() => {
  if (!read.value.ok || !isComplete.value) return null
  const frame = frameOf(rows.value.length)
  rows.value.forEach(({ live }, i) => {
    const value = asInput((live!.value as number | boolean | string | null) ?? undefined) ?? NaN
    frame.values[i] = frame.previous[i] = ['int64', 'uint64'].includes(live!.type) ? Number(value) : value
    frame.changedAt[i] = live!.sourceTime
    frame.good[i] = live!.quality === 0
  })
  try {
    return { text: valueText(resultAs(read.value.formula.run(frame), draft.value.type), draft.value.type), problem: null }
  } catch (error) {
    return { text: null, problem: (error as Error).message }
  }
})
const words = [...Object.values(formulaFunctions), ...Object.values(inputFunctions)]
const operators = '+ − * / % (rest) ^ (power)   == != < <= > >=   and or xor not   a ? b : c   & | << >>> (bits)'
</script>

<template>
  <section class="sheet beside">
    <h2 class="sheet-title">What comes of it now</h2>
    <p v-if="!read.ok" class="quiet">
      {{ draft.source.formula === '' ? 'Type a formula; each name in it stands for a tag.' : read.problem }}
    </p>
    <template v-else>
      <p v-for="row in rows" :key="row.name" class="row">
        <span class="mono">{{ row.name }}</span>
        <span v-if="row.live" class="mono value"
          >{{ valueText(row.live.value, row.live.type) }} {{ row.tag && behindValue(row.live.value, row.tag) }}</span
        >
        <span v-else class="quiet">{{ row.path === '' ? 'no tag yet' : row.tag ? 'no value yet' : 'no tag has this path' }}</span>
        <span v-if="row.live && row.live.quality !== 0" class="is-broken">{{ qualityText(row.live.quality) }}</span>
      </p>
      <p v-if="result?.text" class="result mono">= {{ result.text }} {{ draft.unit }}</p>
      <p v-else-if="result?.problem" class="is-broken">No value: {{ result.problem }}.</p>
    </template>
    <details class="words">
      <summary>What a formula is made of</summary>
      <p class="mono operators">{{ operators }}</p>
      <dl>
        <template v-for="one in words" :key="one.form">
          <dt class="mono">{{ one.form }}</dt>
          <dd class="quiet">{{ one.about }}</dd>
        </template>
      </dl>
      <p class="quiet">Constants: {{ Object.keys(formulaConstants).join(', ') }}. Text stands in "quotes".</p>
    </details>
  </section>
</template>

<style scoped>
.beside {
  padding: 16px 18px;
}
p {
  margin: 6px 0;
}
.row {
  display: grid;
  grid-template-columns: 90px 1fr auto;
  gap: 10px;
}
.row > * {
  overflow: hidden;
  text-overflow: ellipsis;
}
.result {
  font-size: 17px;
  font-weight: 600;
}
.words {
  margin-top: 12px;
}
summary {
  cursor: pointer;
}
.operators {
  white-space: pre-wrap;
  font-size: 12px;
}
dl {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 2px 12px;
  font-size: 12px;
  margin: 8px 0;
}
dd {
  margin: 0;
}
</style>
