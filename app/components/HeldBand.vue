<script setup lang="ts">
/** Above every page while the database is no continuation of what is in force: what is shown is not what runs. */
const live = useLive()
</script>

<template>
  <aside v-if="live.status?.heldDatabase" class="held-band" aria-label="The database is held back" role="alert">
    <strong>{{ live.status.heldDatabase.fault.what }}</strong>
    <span>What pages show of the configuration is that of the database.</span>
    <span class="fill" />
    <NuxtLink to="/site">Decide on Site</NuxtLink>
  </aside>
</template>

<style scoped>
.held-band {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 5px 18px;
  background: color-mix(in srgb, var(--copper) 16%, var(--surface));
  border-bottom: 2px solid var(--copper);
  font-size: 13px;
}
</style>
