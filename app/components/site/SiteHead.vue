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
    <nav aria-label="Parts of the site" class="parts">
      <NuxtLink v-for="part in shown" :key="part.path" :to="part.path" :aria-current="route.path === part.path ? 'page' : undefined">{{
        part.title
      }}</NuxtLink>
    </nav>
    <span class="fill" />
    <slot />
  </div>
</template>
