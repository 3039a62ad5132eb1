<script setup lang="ts">
import type { Protocol } from '#core/links/protocol'

/** What the far side speaks; everything else follows from it. */
defineProps<{ protocols: Protocol[] }>()
</script>

<template>
  <nav class="choices" aria-label="Protocols">
    <NuxtLink v-for="protocol in protocols" :key="protocol.kind" :to="`/links/new?kind=${protocol.kind}`" class="sheet choice">
      <strong>{{ protocol.title }}</strong>
      <span class="quiet">{{ protocol.subtitle }}</span>
    </NuxtLink>
  </nav>
</template>

<style scoped>
.choices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 12px;
}
.choice {
  display: grid;
  gap: 4px;
  padding: 16px 18px;
  color: inherit;
  text-decoration: none;
}
.choice strong {
  font-size: 15px;
  font-weight: 600;
  color: var(--primary);
}
.choice:hover,
.choice:focus-visible {
  border-color: var(--primary);
  outline: none;
}
</style>
