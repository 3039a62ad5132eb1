<script setup lang="ts">
/** The lists of the journal, and what codes in it mean. */
const parts = [
  { title: 'Events', path: '/journal' },
  { title: 'Writes', path: '/journal/writes' },
  { title: 'Codes', path: '/journal/codes' },
]
</script>

<template>
  <PartsHead title="Journal" :parts="parts"><slot /></PartsHead>
</template>
