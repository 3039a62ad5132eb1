<script setup lang="ts">
import { sideText, type Fault } from '#core/faults/catalogue'

/** What failed, the evidence, whose side it is on, and what to do. */
withDefaults(defineProps<{ fault: Fault; mild?: boolean }>(), { mild: false })
</script>

<template>
  <section class="sheet fault" :class="{ mild }" role="alert">
    <h3 class="sheet-title">{{ fault.what }}</h3>
    <p>{{ fault.next }}</p>
    <dl>
      <dt>Whose side</dt>
      <dd>{{ sideText[fault.side] }}</dd>
      <template v-if="fault.evidence">
        <dt>Evidence</dt>
        <dd class="mono">{{ fault.evidence }}</dd>
      </template>
      <dt>Code</dt>
      <dd class="mono">{{ fault.code }}</dd>
    </dl>
    <div class="actions"><slot /></div>
  </section>
</template>

<style scoped>
.fault {
  padding: 14px 18px;
  border-left: 4px solid var(--break);
}
.fault.mild {
  border-left-color: var(--copper);
}
p {
  margin: 6px 0 10px;
}
dl {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 2px 8px;
  margin: 0;
  font-size: 12px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.actions:not(:empty) {
  margin-top: 12px;
}
</style>
