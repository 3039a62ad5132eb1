<script setup lang="ts">
/** Above every page, for as long as it lasts: what is not as usual with this site, and the page about it. */
defineProps<{ label: string; to: string; way: string; dashed?: boolean }>()
</script>

<template>
  <aside class="band" :class="{ dashed }" :aria-label="label">
    <slot />
    <span class="fill" />
    <NuxtLink :to="to">{{ way }}</NuxtLink>
  </aside>
</template>

<style scoped>
.band {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 5px 18px;
  background: color-mix(in srgb, var(--copper) 16%, var(--surface));
  border-bottom: 2px solid var(--copper);
  font-size: 13px;
}
.dashed {
  border-bottom-style: dashed;
}
.band > a {
  white-space: nowrap;
}
</style>
