<script setup lang="ts">
/** The two lists of alarms. */
const parts = [
  { title: 'Now', path: '/alarms' },
  { title: 'What became of them', path: '/alarms/past' },
]
</script>

<template>
  <PartsHead title="Alarms" :parts="parts"><slot /></PartsHead>
</template>
