<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { duration } from '#core/text/duration'
import type { PathKind, PathRecord } from '#shared/diagnosis'

/** The checks that were made of this path, those that it made by itself when it broke included. */
defineProps<{ records: PathRecord[]; shown: number | null; of: PathKind }>()
defineEmits<{ show: [n: number] }>()
const why: Record<PathRecord['why'], string> = {
  asked: 'asked for',
  failure: 'by itself, as it broke',
  recovery: 'by itself, as it came back',
}
const outcome = ({ outcome: came, steps, verdict }: PathRecord) => {
  if (came === 'sound') return 'all sound'
  if (came === 'unfinished') return 'not finished'
  return `stops at ${steps.find(({ step }) => step === verdict?.step)?.title ?? 'a step'}: ${verdict?.causes[0]?.title ?? ''}`
}
</script>

<template>
  <section class="sheet history">
    <h2 class="sheet-title">Checks before</h2>
    <p v-if="records.length === 0" class="quiet">
      {{ of === 'tag' ? 'None yet.' : `None yet. One is made by itself as soon as the ${of} breaks.` }}
    </p>
    <button
      v-for="record in records"
      :key="record.n"
      type="button"
      class="row"
      :class="{ chosen: record.n === shown }"
      @click="$emit('show', record.n)"
    >
      <span class="mono">{{ momentText(record.at) }}</span>
      <PipeGlyph :flow="record.outcome === 'sound' ? 'flowing' : record.outcome === 'stopped' ? 'broken' : 'off'" :width="26" />
      <span class="what">{{ outcome(record) }}</span>
      <span class="quiet">{{ why[record.why] }}</span>
      <span class="number mono quiet">{{ duration(record.ms) }}</span>
    </button>
  </section>
</template>

<style scoped>
.history {
  padding: 12px 16px;
}
.row {
  display: grid;
  grid-template-columns: 152px 26px 1fr 150px 60px;
  gap: 12px;
  align-items: center;
  width: 100%;
  padding: 5px 4px;
  text-align: left;
  border-radius: 4px;
}
.row:hover {
  background: rgba(var(--v-theme-on-surface), 0.04);
}
.chosen {
  background: var(--tint);
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
