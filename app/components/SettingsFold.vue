<script setup lang="ts">
/** Settings that few people change: folded, their present values readable as a line. */
const props = defineProps<{ title: string; summary: string; hasProblem?: boolean }>()
const open = ref(false)
watch(
  () => props.hasProblem,
  (problem) => problem && (open.value = true),
  { immediate: true },
)
</script>

<template>
  <section class="fold">
    <button type="button" class="line" :aria-expanded="open" @click="open = !open">
      <strong>{{ title }}</strong>
      <span class="quiet">{{ summary }}</span>
      <span class="turn" aria-hidden="true">{{ open ? '–' : '+' }}</span>
    </button>
    <div v-if="open" class="fields"><slot /></div>
  </section>
</template>

<style scoped>
.fold {
  border-top: 1px solid var(--line-soft);
}
.fold .line {
  display: grid;
  grid-template-columns: 150px 1fr 20px;
  gap: 10px;
  width: 100%;
  padding: 9px 0;
  text-align: left;
}
.line:focus-visible {
  outline: 2px solid var(--copper);
}
.line strong {
  font-weight: 600;
}
.turn {
  text-align: right;
  font-family: var(--mono);
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 12px;
  padding: 4px 0 16px 160px;
}
</style>
