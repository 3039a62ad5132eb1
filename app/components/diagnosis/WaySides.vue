<script setup lang="ts">
import type { CheckStep } from '#shared/status'
import { partsOf, sideOf } from '~/diagnosis/way'

/** The whole way as one pipe with the break in it, decided by what was measured at each part. */
const props = defineProps<{ steps: CheckStep[]; running: boolean }>()
const parts = computed(() => partsOf(props.steps))
const sentence = computed(() => (props.running ? 'Being measured, part by part.' : sideOf(parts.value)))
</script>

<template>
  <section v-if="parts.length" class="sheet sides">
    <h2 class="sheet-title">Whose side?</h2>
    <ol class="way">
      <li v-for="part in parts" :key="part.joint" :class="`at-${part.flow}`">
        <PipeGlyph :flow="part.flow" :width="50" />
        <span class="end">{{ part.title }}</span>
        <span class="quiet says">{{ part.says.title }}: {{ part.says.evidence }}</span>
      </li>
    </ol>
    <p class="quiet">{{ sentence }}</p>
  </section>
</template>

<style scoped>
.sides {
  padding: 12px 18px;
}
.way {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 50px 76px 1fr;
  gap: 10px;
  align-items: center;
  padding: 4px 0;
}
.end {
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 2px 8px;
  font-size: 12px;
  text-align: center;
}
.at-broken .end,
.at-late .end {
  border-color: var(--break);
}
.says {
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0 0;
}
</style>
