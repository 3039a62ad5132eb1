<script setup lang="ts">
import { isOpenToOthers } from '#shared/outlets/doors'
import type { Door } from '#shared/outlets/opcuaServer'

/** One door: where it listens, how it is secured, and who may come in by it. */
const door = defineModel<Door>({ required: true })
const props = defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const message = (field: string) => props.messageFor(`settings.doors.${props.number - 1}.${field}`)
const warning = computed(() =>
  isOpenToOthers(door.value) && door.value.policies.includes('None') ? 'Others can reach this door, and nothing on it is encrypted.' : '',
)
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
    <EntranceFields v-model="door" :message="message" />
    <template #who><WhoEnters v-model="door" /></template>
  </DoorFrame>
</template>
