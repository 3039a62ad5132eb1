<script setup lang="ts">
import type { Role } from '#core/access/roles'

/** The parts of Site, side by side. */
const parts = [
  { title: 'Revisions', path: '/site' },
  { title: 'Upkeep', path: '/site/upkeep' },
  { title: 'Certificates', path: '/site/certificates' },
  { title: 'Nodes', path: '/site/nodes' },
  { title: 'Relays', path: '/site/relays' },
  { title: 'Device descriptions', path: '/site/devices' },
  { title: 'People', path: '/site/people', role: 'administer' },
  { title: 'API', path: '/site/api' },
] as { title: string; path: string; role?: Role }[]
const session = useSession()
const lists = useLists()
const shown = computed(() => [
  ...(lists.siteCase ? [{ title: 'Case', path: '/site/case' }] : []),
  ...parts.filter(({ role }) => !role || session.can(role)),
])
</script>

<template>
  <PartsHead title="Site" :parts="shown">
    <span class="fill" />
    <slot />
  </PartsHead>
</template>
