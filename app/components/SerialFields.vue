<script setup lang="ts">
import { bauds, parities, parityText, serialText, type SerialPortSettings } from '#core/contracts/serial'

/** A serial port and its parameters. */
const port = defineModel<SerialPortSettings>({ required: true })
const props = defineProps<{ framing: 'rtu' | 'ascii'; path: string; suffix?: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const device = computed(() => `${props.path}.device`)
const named = (label: string) => (props.suffix ? `${label} ${props.suffix}` : label)
const speeds = bauds.map((value) => ({ value, title: String(value) }))
const parityChoices = parities.map((value) => ({ value, title: parityText[value] }))
const ofData = ([8, 7] as const).map((value) => ({ value, title: String(value) }))
const ofStop = ([1, 2] as const).map((value) => ({ value, title: String(value) }))
/** The standard has eleven bits for a character, so that a stop bit stands where there is no parity. */
const isUnusual = computed(() => (port.value.parity === 'none') !== (port.value.stopBits === 2))
</script>

<template>
  <div>
    <TextField
      v-model="port.device"
      :label="named('Serial port')"
      mono
      placeholder="/dev/ttyUSB0"
      :message="messageFor(device)"
      @left="emit('left', device)"
    />
    <div class="serial">
      <ChoiceField v-model="port.baud" :label="named('Speed, bit/s')" :choices="speeds" mono />
      <ChoiceField v-model="port.dataBits" :label="named('Data bits')" :choices="ofData" mono />
      <ChoiceField v-model="port.parity" :label="named('Parity')" :choices="parityChoices" />
      <ChoiceField v-model="port.stopBits" :label="named('Stop bits')" :choices="ofStop" mono />
    </div>
    <p class="quiet note">
      <span class="mono">{{ serialText(port) }}</span>
      <template v-if="isUnusual"> · the standard has one stop bit with a parity, and two without; many devices do otherwise</template>
      <span v-if="framing === 'rtu' && port.dataBits === 7" class="is-late"> · RTU needs eight data bits</span>
    </p>
  </div>
</template>

<style scoped>
.serial {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 12px;
  margin-top: 12px;
}
.note {
  margin: 6px 0 16px;
}
</style>
