<script setup lang="ts">
import { isOpenToOthers } from '#shared/outlets/doors'
import type { ModbusDoor } from '#shared/outlets/modbusServer'

/** One door of a Modbus server: where it listens, and how requests are framed there. */
const door = defineModel<ModbusDoor>({ required: true })
defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const framings = [
  { value: 'tcp' as const, title: 'Modbus TCP', subtitle: 'what nearly every client speaks' },
  { value: 'rtu' as const, title: 'RTU over TCP', subtitle: 'the frames of a serial line, through a converter that only passes them on' },
  { value: 'ascii' as const, title: 'ASCII over TCP', subtitle: 'the same in letters' },
]
const warning = computed(() =>
  isOpenToOthers(door.value) ? 'Others can reach this door, and the protocol has neither names nor encryption: see who may do what.' : '',
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
    <ChoiceField v-model="door.framing" label="Frames" :choices="framings" />
  </DoorFrame>
</template>
