<script setup lang="ts">
import type { ModbusTcpSettings } from '#core/modbus/settings'
import { counted } from '#core/text/counted'

/** What belongs to a Modbus TCP link: host, port and unit to start; the rest folded, readable as a line. */
const settings = defineModel<ModbusTcpSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const requestsText = computed(() => {
  const { registers, bits, readAcross, inFlight, connections } = settings.value.requests
  return `${registers} registers or ${bits} bits at once, across gaps of ${readAcross}, ${inFlight} under way, up to ${counted(connections, 'connection')}`
})
const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
</script>

<template>
  <div class="first">
    <TextField
      v-model="settings.host"
      label="Host"
      mono
      placeholder="10.8.1.20 or meters.port.example"
      :message="message('host')"
      @left="left('host')"
    />
    <NumberField v-model="settings.port" label="Port" :message="message('port')" @left="left('port')" />
    <NumberField v-model="settings.unit" label="Unit" :message="message('unit')" @left="left('unit')" />
  </div>

  <ModbusFolds
    v-model="settings"
    :message-for="messageFor"
    :has-problem="hasProblem"
    :requests-text="requestsText"
    @left="emit('left', $event)"
  >
    <template #requests>
      <NumberField
        v-model="settings.requests.inFlight"
        label="Under way per connection"
        :message="message('requests.inFlight')"
        @left="left('requests.inFlight')"
      />
      <NumberField
        v-model="settings.requests.connections"
        label="Connections at most"
        hint="units are spread over them"
        :message="message('requests.connections')"
        @left="left('requests.connections')"
      />
    </template>
  </ModbusFolds>
  <SettingsFold
    title="Network interface"
    :summary="settings.localAddress || 'as this machine chooses'"
    :has-problem="hasProblem('settings.localAddress')"
  >
    <TextField
      v-model="settings.localAddress"
      label="Use the interface with this address"
      mono
      placeholder="as this machine chooses"
      :message="message('localAddress')"
      @left="left('localAddress')"
    />
  </SettingsFold>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: 1fr 110px 90px;
  gap: 12px;
  margin-bottom: 16px;
}
</style>
