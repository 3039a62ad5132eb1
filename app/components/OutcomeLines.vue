<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { CallOutcome } from '#shared/links/webCall'

/** What came of a call, beside its body: what went out, the status, how long it took, its headers. */
const props = defineProps<{ outcome: CallOutcome }>()
const went = computed(() => (props.outcome.fault || (props.outcome.status ?? 0) >= 400 ? 'is-broken' : ''))
</script>

<template>
  <p class="line">
    <span class="mono">{{ outcome.request }}</span>
    <strong :class="went">{{ outcome.status ?? '' }} {{ outcome.words }}</strong>
    <span v-if="outcome.ms !== null" class="quiet">{{ duration(outcome.ms) }}, {{ outcome.bytes.toLocaleString('en-GB') }} bytes</span>
  </p>
  <FaultNote v-if="outcome.fault" :fault="outcome.fault" />
  <details v-if="outcome.headers.length > 1">
    <summary>{{ outcome.headers.length }} headers</summary>
    <p v-for="header in outcome.headers" :key="header.name + header.value" class="mono small">{{ header.name }}: {{ header.value }}</p>
  </details>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
