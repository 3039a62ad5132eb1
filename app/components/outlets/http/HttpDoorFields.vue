<script setup lang="ts">
import { isOpenToOthers } from '#shared/outlets/doors'
import type { HttpDoor } from '#shared/outlets/httpServer'

/** One door of an HTTP server: where it listens, and who may come in by it. */
const door = defineModel<HttpDoor>({ required: true })
defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const warning = computed(() => {
  if (door.value.tls || !isOpenToOthers(door.value)) return ''
  return door.value.names
    ? 'Others can reach this door, and names and tokens pass it in the clear.'
    : 'Others can reach this door, and nothing on it is encrypted.'
})
</script>

<template>
  <DoorFrame
    v-model="door"
    :number="number"
    :only="only"
    :warning="warning"
    :message-for="messageFor"
    @left="$emit('left', $event)"
    @drop="$emit('drop')"
  >
    <template #who>
      <v-checkbox v-model="door.tls" label="TLS" density="compact" hide-details />
      <v-checkbox v-model="door.anonymous" label="Without a name" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and token" density="compact" hide-details />
    </template>
  </DoorFrame>
</template>
