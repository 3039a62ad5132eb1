<script setup lang="ts">
import type { Role } from '#core/access/roles'

/** The parts of Site, side by side. */
const parts = [
  { title: 'Revisions', path: '/site' },
  { title: 'Certificates', path: '/site/certificates' },
  { title: 'People', path: '/site/people', role: 'administer' },
] as { title: string; path: string; role?: Role }[]
const route = useRoute()
const session = useSession()
const shown = computed(() => parts.filter(({ role }) => !role || session.can(role)))
</script>

<template>
  <div class="page-head">
    <h1>Site</h1>
    <nav aria-label="Parts of the site">
      <NuxtLink v-for="part in shown" :key="part.path" :to="part.path" :aria-current="route.path === part.path ? 'page' : undefined">{{
        part.title
      }}</NuxtLink>
    </nav>
    <span class="fill" />
    <slot />
  </div>
</template>

<style scoped>
nav {
  display: flex;
  gap: 4px;
  margin-left: 8px;
}
nav a {
  padding: 4px 10px;
  border-radius: 6px;
  color: var(--quiet);
  font-weight: 500;
  text-decoration: none;
}
nav a:hover,
nav a:focus-visible {
  background: var(--tint);
}
nav a[aria-current] {
  color: var(--primary);
  background: var(--tint);
}
</style>
