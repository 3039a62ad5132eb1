<script setup lang="ts">
import type { Entrance } from '#shared/outlets/opcuaServer'

/** Who may come in over a connection of an OPC UA server. */
const entrance = defineModel<Entrance>({ required: true })
</script>

<template>
  <v-checkbox v-model="entrance.anonymous" label="Anonymous" density="compact" hide-details />
  <v-checkbox v-model="entrance.names" label="By name and password" density="compact" hide-details />
  <v-checkbox v-model="entrance.certificates" label="By certificate" density="compact" hide-details />
</template>
