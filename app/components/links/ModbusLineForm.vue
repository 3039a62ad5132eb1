<script setup lang="ts">
import type { ModbusLineSettings } from '#core/modbus/lineSettings'
import { duration } from '#core/text/duration'

/** What belongs to a serial line of Modbus: the port or the converter, frames and unit to start; the rest folded. */
const settings = defineModel<ModbusLineSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

type Line = ModbusLineSettings['line']
const ways = [
  { value: 'port' as const, title: 'a serial port', subtitle: 'of the machine on which the engine runs' },
  { value: 'tcp' as const, title: 'a converter', subtitle: 'that passes bytes on over TCP' },
]
const blank: { [K in Line['over']]: Extract<Line, { over: K }> } = {
  port: { over: 'port', device: '/dev/ttyUSB0', baud: 19_200, dataBits: 8, parity: 'even', stopBits: 1 },
  tcp: { over: 'tcp', host: '', port: 4001 },
}
const go = (over: Line['over']) => {
  if (over !== settings.value.line.over) settings.value.line = { ...blank[over] }
}
const port = computed({
  get: () => (settings.value.line.over === 'port' ? settings.value.line : null),
  set: (line) => line && (settings.value.line = line),
})
const converter = computed(() => (settings.value.line.over === 'tcp' ? settings.value.line : null))
const framings = [
  { value: 'rtu' as const, title: 'RTU', subtitle: 'bytes, eight bits each' },
  { value: 'ascii' as const, title: 'ASCII', subtitle: 'letters, often seven bits each' },
]
const requestsText = computed(() => {
  const { registers, bits, readAcross, pause } = settings.value.requests
  return `${registers} registers or ${bits} bits at once, across gaps of ${readAcross}, one under way, ${pause} ms between them at least`
})
const lineText = computed(
  () =>
    `listened to for ${duration(settings.value.settle)} after a silence, left alone for ${duration(settings.value.broadcast)} after a broadcast`,
)
const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
</script>

<template>
  <div class="first">
    <ChoiceField :model-value="settings.line.over" label="Over" :choices="ways" @update:model-value="go" />
    <ChoiceField v-model="settings.framing" label="Frames" :choices="framings" />
    <NumberField v-model="settings.unit" label="Unit" :message="message('unit')" @left="left('unit')" />
  </div>
  <SerialFields
    v-if="port"
    v-model="port"
    :framing="settings.framing"
    path="settings.line"
    :message-for="messageFor"
    @left="emit('left', $event)"
  />
  <div v-else-if="converter" class="converter">
    <TextField
      v-model="converter.host"
      label="Host"
      mono
      placeholder="10.8.1.30"
      :message="message('line.host')"
      @left="left('line.host')"
    />
    <NumberField v-model="converter.port" label="Port" :message="message('line.port')" @left="left('line.port')" />
  </div>
  <ModbusFolds
    v-model="settings"
    :message-for="messageFor"
    :has-problem="hasProblem"
    :requests-text="requestsText"
    @left="emit('left', $event)"
  />
  <SettingsFold title="The line" :summary="lineText" :has-problem="hasProblem('settings.settle') || hasProblem('settings.broadcast')">
    <NumberField
      v-model="settings.settle"
      label="Listened to after a silence"
      unit="ms"
      hint="so that a late reply is taken for nobody else’s"
      :message="message('settle')"
      @left="left('settle')"
    />
    <NumberField
      v-model="settings.broadcast"
      label="Left alone after a broadcast"
      unit="ms"
      :message="message('broadcast')"
      @left="left('broadcast')"
    />
  </SettingsFold>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: 1fr 1fr 90px;
  gap: 12px;
  margin-bottom: 12px;
}
.converter {
  display: grid;
  grid-template-columns: 1fr 110px;
  gap: 12px;
  margin-bottom: 16px;
}
</style>
