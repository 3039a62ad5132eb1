<script setup lang="ts">
import { tables } from '#core/modbus/address'
import { wordOrders, wordOrderText } from '#core/modbus/layout'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import { duration } from '#core/text/duration'
import { counted } from '#core/text/counted'

/** What belongs to a Modbus TCP link: host, port and unit to start; the rest folded, readable as a line. */
const settings = defineModel<ModbusTcpSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const orders = wordOrders.map((order) => ({ value: order, title: order, subtitle: wordOrderText[order] }))
const functions = [
  { value: 'fitting' as const, title: 'function 6 for one register, 16 for more' },
  { value: 'multiple' as const, title: 'always function 16', subtitle: 'for devices without function 6' },
]
const tableChoices = tables.map((table) => ({ value: table, title: table }))

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { interval, order, patience, requests, leaveOut, writes, holes, localAddress } = settings.value
  return {
    reading: `every ${ms(interval)}, words ${order}`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    requests: `${requests.registers} registers or ${requests.bits} bits at once, across gaps of ${requests.readAcross}, ${requests.inFlight} under way, up to ${counted(requests.connections, 'connection')}`,
    silent: leaveOut.after === 0 ? 'silent units stay in the round' : `left out after ${leaveOut.after} in a row, for ${ms(leaveOut.for)}`,
    writes: `${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most, ${writes.function === 'fitting' ? 'function 6 or 16' : 'always function 16'}`,
    holes:
      holes.length === 0
        ? 'none declared; refused ones are found and read around'
        : holes.map((hole) => `${hole.table}/${hole.from}–${hole.to}`).join(', '),
    network: localAddress || 'as this machine chooses',
  }
})

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))
const addHole = () => settings.value.holes.push({ unit: null, table: 'holding', from: 0, to: 0 })
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

  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('interval', 'order')">
    <NumberField v-model="settings.interval" label="Read every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <ChoiceField v-model="settings.order" label="Word order of wide values" :choices="orders" mono />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Requests" :summary="summary.requests" :has-problem="wrong('requests')">
    <NumberField
      v-model="settings.requests.registers"
      label="Registers in one request"
      :message="message('requests.registers')"
      @left="left('requests.registers')"
    />
    <NumberField
      v-model="settings.requests.bits"
      label="Bits in one request"
      :message="message('requests.bits')"
      @left="left('requests.bits')"
    />
    <NumberField
      v-model="settings.requests.readAcross"
      label="Gaps read across, up to"
      unit="registers"
      :message="message('requests.readAcross')"
      @left="left('requests.readAcross')"
    />
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
    <NumberField
      v-model="settings.requests.pause"
      label="Pause between requests"
      unit="ms"
      :message="message('requests.pause')"
      @left="left('requests.pause')"
    />
  </SettingsFold>
  <SettingsFold title="Silent units" :summary="summary.silent" :has-problem="wrong('leaveOut')">
    <NumberField
      v-model="settings.leaveOut.after"
      label="Left out after"
      unit="in a row"
      hint="0: never"
      :message="message('leaveOut.after')"
      @left="left('leaveOut.after')"
    />
    <NumberField v-model="settings.leaveOut.for" label="For" unit="ms" :message="message('leaveOut.for')" @left="left('leaveOut.for')" />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('writes')">
    <WriteFields v-model="settings.writes" :message="message('writes.within')" @left="left('writes.within')" />
    <ChoiceField v-model="settings.writes.function" label="Function" :choices="functions" />
  </SettingsFold>
  <SettingsFold title="Never read" :summary="summary.holes" :has-problem="wrong('holes')">
    <div v-for="(hole, index) in settings.holes" :key="index" class="hole">
      <ChoiceField v-model="hole.table" :label="`Table of range ${index + 1}`" :choices="tableChoices" />
      <NumberField v-model="hole.from" :label="`From offset, range ${index + 1}`" :message="message(`holes.${index}.from`)" />
      <NumberField v-model="hole.to" :label="`To offset, range ${index + 1}`" :message="message(`holes.${index}.to`)" />
      <NumberField
        v-model="hole.unit"
        :label="`Unit, range ${index + 1}`"
        hint="empty: every unit"
        :message="message(`holes.${index}.unit`)"
      />
      <v-btn class="drop" @click="settings.holes.splice(index, 1)">Drop</v-btn>
    </div>
    <v-btn class="add" @click="addHole">Add a range</v-btn>
  </SettingsFold>
  <SettingsFold title="Network interface" :summary="summary.network" :has-problem="wrong('localAddress')">
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
.hole {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 120px 1fr 1fr 1fr auto;
  gap: 10px;
  align-items: start;
}
.drop {
  margin-top: 21px;
}
.add {
  justify-self: start;
}
</style>
