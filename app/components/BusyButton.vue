<script setup lang="ts">
/** A button that says when it works. */
defineProps<{ busy: boolean }>()
</script>

<template>
  <v-btn :loading="busy">
    <slot />
    <template #loader><v-progress-circular indeterminate size="18" width="2" aria-label="Working" /></template>
  </v-btn>
</template>
