<script setup lang="ts">
import type { Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'

/** The check beside a sheet: each step with what was seen and how long it took; below, what it means. */
const props = defineProps<{
  steps: CheckStep[]
  running: boolean
  failed: CheckStep | null
  verdict: Verdict | null
  note: string
  canRun: boolean
  asks?: boolean
}>()
defineEmits<{ run: []; stop: [] }>()
const sound = computed(() => !props.running && props.steps.length > 0 && props.steps.every((step) => step.flow === 'flowing'))
</script>

<template>
  <section class="sheet check" aria-live="polite">
    <div class="head">
      <h2 class="sheet-title">Check</h2>
      <span class="quiet">{{ note }}</span>
      <span class="fill" />
      <v-btn v-if="running" height="26" @click="$emit('stop')">Stop</v-btn>
      <v-btn v-else height="26" :disabled="!canRun" @click="$emit('run')">Check now</v-btn>
    </div>
    <p v-if="steps.length === 0" class="quiet empty">Runs by itself as soon as the fields are complete.</p>
    <CheckSteps v-else :steps="steps" />
    <p v-if="sound" class="verdict">The device answers. It can be saved.</p>
  </section>
  <template v-if="failed?.fault && !(asks && failed.fault.code === 'certificate.unknown')">
    <FaultNote :fault="failed.fault" class="below" />
    <div v-if="verdict" class="below"><CausePanel :verdict="verdict" /></div>
  </template>
</template>

<style scoped>
.check {
  padding: 12px 0 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 16px 8px;
}
.fill {
  flex: 1;
}
.empty,
.verdict {
  padding: 0 16px 8px;
  margin: 0;
}
.verdict {
  color: var(--flow);
  font-weight: 500;
  padding-top: 8px;
}
.below {
  margin-top: 12px;
}
</style>
