<script setup lang="ts">
/** The filter of a list, by what is typed; `/` leads into it. */
const words = defineModel<string | null>({ required: true })
defineProps<{ label: string }>()
</script>

<template>
  <v-text-field v-model="words" data-filter class="filter" :placeholder="label" :aria-label="label" clearable />
</template>

<style scoped>
.filter {
  max-width: 260px;
}
</style>
