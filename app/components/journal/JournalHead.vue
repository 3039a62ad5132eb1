<script setup lang="ts">
/** The two lists of the journal, side by side. */
const parts = [
  { title: 'Events', path: '/journal' },
  { title: 'Writes', path: '/journal/writes' },
]
const route = useRoute()
</script>

<template>
  <div class="page-head">
    <h1>Journal</h1>
    <nav aria-label="Parts of the journal" class="parts">
      <NuxtLink v-for="part in parts" :key="part.path" :to="part.path" :aria-current="route.path === part.path ? 'page' : undefined">{{
        part.title
      }}</NuxtLink>
    </nav>
    <slot />
  </div>
</template>
