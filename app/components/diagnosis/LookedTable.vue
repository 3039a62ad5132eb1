<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { Sighting } from '#shared/diagnosis'
import type { Flow } from '#shared/flow'

/** What was measured beside the steps, once one of them had failed. */
defineProps<{ looked: Sighting[] }>()
const flowOf: Record<Sighting['outcome'], Flow | 'waiting'> = { sound: 'flowing', wrong: 'broken', open: 'waiting' }
const words: Record<Sighting['outcome'], string> = { sound: 'sound', wrong: 'not as it should be', open: 'says nothing either way' }
</script>

<template>
  <section class="sheet looked">
    <h2 class="sheet-title">Looked further</h2>
    <div v-for="one in looked" :key="one.id" class="row" :data-looked="one.id">
      <span>{{ one.title }}</span>
      <PipeGlyph :flow="flowOf[one.outcome]" :width="26" :text="words[one.outcome]" />
      <span class="evidence" :class="{ 'is-broken': one.outcome === 'wrong', quiet: one.outcome === 'open' }">{{ one.evidence }}</span>
      <span class="number mono quiet">{{ one.ms === null ? '' : duration(one.ms) }}</span>
    </div>
  </section>
</template>

<style scoped>
.looked {
  padding: 12px 16px;
}
.row {
  display: grid;
  grid-template-columns: 166px 26px 1fr 60px;
  gap: 12px;
  align-items: center;
  padding: 5px 0;
}
.evidence {
  overflow-wrap: anywhere;
}
</style>
