<script setup lang="ts">
import type { ImportStatus, Outcome } from '#shared/imports'

/** What the lines come to, by number; each shows its lines. */
const shown = defineModel<Outcome>({ required: true })
defineProps<{ counts: ImportStatus['counts'] }>()
const cards: { what: Outcome; title: string }[] = [
  { what: 'added', title: 'Added' },
  { what: 'changed', title: 'Changed' },
  { what: 'removed', title: 'Removed' },
  { what: 'refused', title: 'Refused' },
  { what: 'same', title: 'As they are' },
]
</script>

<template>
  <div class="counts" role="group" aria-label="What the lines come to">
    <button
      v-for="card in cards"
      :key="card.what"
      type="button"
      class="sheet card"
      :class="[card.what, { chosen: shown === card.what }]"
      :aria-pressed="shown === card.what"
      @click="shown = card.what"
    >
      <span class="quiet">{{ card.title }}</span>
      <strong :class="{ none: counts[card.what] === 0 }">{{ counts[card.what].toLocaleString('en-GB') }}</strong>
    </button>
  </div>
</template>

<style scoped>
.counts {
  display: grid;
  grid-template-columns: repeat(5, minmax(90px, 150px));
  gap: 10px;
}
button.card {
  display: grid;
  gap: 2px;
  padding: 9px 16px 10px;
  text-align: left;
  background: var(--surface);
  border: 1px solid var(--line);
}
.card strong {
  font-family: var(--mono);
  font-size: 19px;
  font-weight: 600;
}
button.card.chosen {
  border-color: var(--primary);
  box-shadow: inset 0 0 0 1px var(--primary);
}
button.card:focus-visible {
  outline: 2px solid var(--primary);
  outline-offset: 1px;
}
.added strong {
  color: var(--flow);
}
.removed strong {
  color: var(--copper);
}
.refused strong {
  color: var(--break);
}
strong.none,
.same strong {
  color: var(--quiet);
}
</style>
