<script setup lang="ts">
/** A part of a sentence: pressed, the sheet to edit it opens below. */
defineProps<{ text: string; open: boolean; wrong: boolean }>()
defineEmits<{ press: [] }>()
</script>

<template>
  <button type="button" class="part" :class="{ open, wrong }" :aria-expanded="open" @click="$emit('press')">{{ text }}</button>
</template>

<style scoped>
.part {
  display: inline-block;
  max-width: 100%;
  padding: 4px 8px;
  line-height: 20px;
  border: 1px solid var(--line);
  border-radius: 5px;
  background: var(--tint);
  overflow-wrap: anywhere;
  text-align: left;
}
.part.open {
  border-color: var(--primary);
  box-shadow: inset 0 -2px 0 var(--primary);
}
.part.wrong {
  border-color: var(--break);
}
.part:focus-visible {
  outline: 2px solid var(--copper);
  outline-offset: 1px;
}
</style>
