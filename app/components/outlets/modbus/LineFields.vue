<script setup lang="ts">
import type { ModbusLine } from '#shared/outlets/modbusServer'

/** A serial port at which a Modbus server answers the master of a line. */
const line = defineModel<ModbusLine>({ required: true })
const props = defineProps<{ number: number; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.lines.${props.number - 1}`)
const framings = [
  { value: 'rtu' as const, title: 'RTU' },
  { value: 'ascii' as const, title: 'ASCII' },
]
</script>

<template>
  <fieldset class="framed">
    <legend>Serial line {{ number }}</legend>
    <SerialFields
      v-model="line"
      :framing="line.framing"
      :path="path"
      :suffix="String(number)"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <ChoiceField v-model="line.framing" :label="`Frames of line ${number}`" :choices="framings" />
    <div class="row">
      <v-checkbox v-model="line.on" label="Open" density="compact" hide-details />
      <v-btn height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
  </fieldset>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 4px;
}
</style>
