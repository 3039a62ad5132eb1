<script setup lang="ts">
import { bauds, parities, parityText, serialText, type SerialPortSettings } from '#core/contracts/serial'

/** A serial port and its parameters. */
const port = defineModel<SerialPortSettings>({ required: true })
const props = defineProps<{ framing: 'rtu' | 'ascii'; path: string; suffix?: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const device = computed(() => `${props.path}.device`)
const named = (label: string) => (props.suffix ? `${label} ${props.suffix}` : label)
const { ports, look } = useSerialPorts()
const devices = computed(() => ports.value?.map((one) => one.device) ?? [])
const hint = computed(() => {
  const known = ports.value?.find((one) => one.device === port.value.device)
  if (known) return known.about || 'this machine has it'
  if (ports.value === null) return ''
  return devices.value.length === 0 ? 'this machine has no serial port now' : `this machine has ${devices.value.join(', ')}`
})
const speeds = bauds.map((value) => ({ value, title: String(value) }))
const parityChoices = parities.map((value) => ({ value, title: parityText[value] }))
const ofData = ([8, 7] as const).map((value) => ({ value, title: String(value) }))
const ofStop = ([1, 2] as const).map((value) => ({ value, title: String(value) }))
/** The standard has eleven bits for a character, so that a stop bit stands where there is no parity. */
const isUnusual = computed(() => (port.value.parity === 'none') !== (port.value.stopBits === 2))
</script>

<template>
  <div>
    <SuggestField
      v-model="port.device"
      :label="named('Serial port')"
      :among="devices"
      placeholder="/dev/ttyUSB0"
      :message="messageFor(device)"
      :hint="hint"
      @left="emit('left', device)"
      @focusin="look"
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
