<script setup lang="ts">
import type { ModbusMachine } from '#shared/outlets/modbusServer'

/** Machines that are known by their addresses, and what they may do. */
const machine = defineModel<ModbusMachine>({ required: true })
const props = defineProps<{ number: number; folders: readonly string[]; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()

const at = (path: string) => `settings.machines.${props.number - 1}.${path}`
</script>

<template>
  <GuestFrame
    v-model="machine.name"
    list="machines"
    :number="number"
    rights="Rights by folder"
    :message-for="messageFor"
    @left="emit('left', $event)"
    @drop="emit('drop')"
  >
    <TextField
      v-model="machine.from"
      :label="`Comes from ${number}`"
      mono
      placeholder="10.8.0.14 or 10.8.0.0/24"
      :message="messageFor(at('from'))"
      @left="emit('left', at('from'))"
    />
    <template #rights>
      <RulesField
        v-model="machine.rules"
        :what="`Rights of ${machine.name || number}`"
        :path="at('rules')"
        :folders="folders"
        :message-for="messageFor"
      />
    </template>
  </GuestFrame>
</template>
