<script setup lang="ts">
import type { Role } from '#core/access/roles'

/** Shows what only those with a role can use; others are not led to a closed door. */
defineProps<{ role: Role }>()
const session = useSession()
</script>

<template>
  <slot v-if="session.can(role)" />
</template>
