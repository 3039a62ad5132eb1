<script setup lang="ts">
import type { AddressFacts } from '#core/links/protocol'

/** The same point in every notation of the trade, since off-by-one is the commonest mistake. */
defineProps<{ facts: AddressFacts }>()
</script>

<template>
  <dl v-if="facts.ok" class="facts">
    <template v-for="notation in facts.notations" :key="notation.label">
      <dt>{{ notation.label }}</dt>
      <dd class="mono">{{ notation.text }}</dd>
    </template>
  </dl>
  <p v-if="facts.ok && facts.note" class="note">{{ facts.note }}</p>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 14px;
  margin: 6px 0 0;
  font-size: 12px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
}
.note {
  margin: 4px 0 0;
  font-size: 12px;
  color: var(--copper);
}
</style>
