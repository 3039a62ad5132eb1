<script setup lang="ts">
import { isOpenToOthers } from '#shared/outlets/doors'
import type { BrokerDoor } from '#shared/outlets/mqttBroker'

/** One door of a broker: where it listens, over what, and who may come in by it. */
const door = defineModel<BrokerDoor>({ required: true })
const props = defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.doors.${props.number - 1}`)
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
  <fieldset class="framed">
    <legend>Door {{ number }}</legend>
    <div class="grid">
      <DoorPlaceFields v-model="door" :path="path" :message-for="messageFor" @left="$emit('left', $event)" />
      <ChoiceField v-model="door.over" label="Over" :choices="ways" />
    </div>
    <div class="who">
      <v-checkbox v-model="door.tls" label="TLS" density="compact" hide-details />
      <v-checkbox v-model="door.anonymous" label="Without a name" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and password" density="compact" hide-details />
      <v-checkbox v-model="door.on" label="Open" density="compact" hide-details />
      <v-btn v-if="!only" height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
    <p v-if="messageFor(`${path}.names`)" class="is-broken">{{ messageFor(`${path}.names`) }}</p>
    <p v-if="warning" class="is-late">{{ warning }}</p>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  gap: 10px;
}
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-top: 4px;
}
p {
  margin: 4px 0 0;
}
</style>
