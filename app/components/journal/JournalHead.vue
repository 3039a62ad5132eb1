<script setup lang="ts">
/** The lists of the journal, and what codes in it mean. */
const session = useSession()
const parts = computed(() => [
  { title: 'Events', path: '/journal' },
  { title: 'Writes', path: '/journal/writes' },
  ...(session.can('administer') ? [{ title: 'Deeds', path: '/journal/deeds' }] : []),
  { title: 'Statistics', path: '/journal/statistics' },
  { title: 'Codes', path: '/journal/codes' },
])
</script>

<template>
  <PartsHead title="Journal" :parts="parts"><slot /></PartsHead>
</template>
