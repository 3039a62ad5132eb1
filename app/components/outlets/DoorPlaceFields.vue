<script setup lang="ts">
import type { DoorPlace } from '#shared/outlets/doors'

/** Where a door of any outlet listens, and what clients are told to dial. */
const door = defineModel<DoorPlace>({ required: true })
const props = defineProps<{ path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
</script>

<template>
  <div class="grid">
    <InterfaceField v-model="door.interface" :message="message('interface')" />
    <NumberField v-model="door.port" label="Port" :message="message('port')" @left="left('port')" />
    <TextField
      v-model="door.giveOut"
      class="wide"
      label="Host to give out"
      mono
      placeholder="as the interface"
      :message="message('giveOut')"
      @left="left('giveOut')"
    />
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 100px;
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
