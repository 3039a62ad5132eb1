<script setup lang="ts">
import { explain } from '#core/diagnosis/codes/explain'
import { sideText, type Fault } from '#core/faults/catalogue'

/** What failed, the evidence, whose side it is on, and what to do. */
const props = withDefaults(defineProps<{ fault: Fault; mild?: boolean }>(), { mild: false })
/** What the far side or the system said, where that holds a code that can be explained. */
const said = computed(() => props.fault.evidence || props.fault.what)
const isExplained = computed(() => explain(said.value).length > 0)
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
      <template v-if="isExplained">
        <dt>Means</dt>
        <dd><NuxtLink :to="{ path: '/journal/codes', query: { text: said } }">What this code means</NuxtLink></dd>
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
