<script setup lang="ts">
import { isOpenToOthers } from '#shared/outlets/doors'
import type { BrokerDoor } from '#shared/outlets/mqttBroker'

/** One door of a broker: where it listens, over what, and who may come in by it. */
const door = defineModel<BrokerDoor>({ required: true })
defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const ways = [
  { value: 'tcp' as const, title: 'TCP' },
  { value: 'websocket' as const, title: 'websocket', subtitle: 'for pages, and where only the web gets through' },
]
const warning = computed(() => {
  if (door.value.tls || !isOpenToOthers(door.value)) return ''
  return door.value.names
    ? 'Others can reach this door, and names and passwords pass it in the clear.'
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
    <ChoiceField v-model="door.over" label="Over" :choices="ways" />
    <template #who>
      <v-checkbox v-model="door.tls" label="TLS" density="compact" hide-details />
      <v-checkbox v-model="door.anonymous" label="Without a name" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and password" density="compact" hide-details />
    </template>
  </DoorFrame>
</template>
