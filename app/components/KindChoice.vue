<script setup lang="ts">
/** What something is to be; everything else follows from it. */
defineProps<{ kinds: readonly { kind: string; title: string; subtitle: string }[]; path: string; label: string }>()
</script>

<template>
  <nav class="choices" :aria-label="label">
    <NuxtLink v-for="one in kinds" :key="one.kind" :to="`${path}${path.includes('?') ? '&' : '?'}kind=${one.kind}`" class="sheet choice">
      <strong>{{ one.title }}</strong>
      <span class="quiet">{{ one.subtitle }}</span>
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
