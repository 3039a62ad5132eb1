<script setup lang="ts">
/** The two lists of the journal. */
const parts = [
  { title: 'Events', path: '/journal' },
  { title: 'Writes', path: '/journal/writes' },
]
</script>

<template>
  <PartsHead title="Journal" :parts="parts"><slot /></PartsHead>
</template>
