<script setup lang="ts" generic="S extends ModbusCommon">
import { tables } from '#core/modbus/address'
import { wordOrders, wordOrderText } from '#core/modbus/layout'
import type { ModbusCommon } from '#core/modbus/settings'
import { duration } from '#core/text/duration'
import { counted } from '#core/text/counted'

/** What all links of Modbus may be set to beyond where they go, folded, readable as a line. */
const settings = defineModel<S>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; requestsText: string }>()
const emit = defineEmits<{ left: [path: string] }>()

const orders = wordOrders.map((order) => ({ value: order, title: order, subtitle: wordOrderText[order] }))
const functions = [
  { value: 'fitting' as const, title: 'function 6 for one register, 16 for more' },
  { value: 'multiple' as const, title: 'always function 16', subtitle: 'for devices without function 6' },
]
const tableChoices = tables.map((table) => ({ value: table, title: table }))

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { interval, order, patience, leaveOut, writes, holes, units } = settings.value
  return {
    reading: `every ${ms(interval)}, words ${order}`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    silent: leaveOut.after === 0 ? 'silent units stay in the round' : `left out after ${leaveOut.after} in a row, for ${ms(leaveOut.for)}`,
    writes: `${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most, ${writes.function === 'fitting' ? 'function 6 or 16' : 'always function 16'}`,
    units: units.length === 0 ? 'all are waited for alike' : counted(units.length, 'unit'),
    holes:
      holes.length === 0
        ? 'none declared; refused ones are found and read around'
        : holes.map((hole) => `${hole.table}/${hole.from}–${hole.to}`).join(', '),
  }
})

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))
const addHole = () => settings.value.holes.push({ unit: null, table: 'holding', from: 0, to: 0 })
</script>

<template>
  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('interval', 'order')">
    <NumberField v-model="settings.interval" label="Read every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <ChoiceField v-model="settings.order" label="Word order of wide values" :choices="orders" mono />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Requests" :summary="requestsText" :has-problem="wrong('requests')">
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
    <slot name="requests" />
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
  <SettingsFold title="Slow units" :summary="summary.units" :has-problem="wrong('units')">
    <div v-for="(one, index) in settings.units" :key="index" class="unit">
      <NumberField v-model="one.unit" :label="`Unit ${index + 1}`" :message="message(`units.${index}.unit`)" />
      <NumberField v-model="one.answer" :label="`Answers within ${index + 1}`" unit="ms" :message="message(`units.${index}.answer`)" />
      <NumberField v-model="one.pause" :label="`Left alone for ${index + 1}`" unit="ms" :message="message(`units.${index}.pause`)" />
      <v-btn class="drop" @click="settings.units.splice(index, 1)">Drop</v-btn>
    </div>
    <p v-if="message('units')" class="is-broken wide">{{ message('units') }}</p>
    <v-btn class="add" @click="settings.units.push({ unit: 1, answer: settings.patience.answer * 2, pause: 0 })">Add a unit</v-btn>
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
</template>

<style scoped>
.hole {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 120px 1fr 1fr 1fr auto;
  gap: 10px;
  align-items: start;
}
.unit {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 90px 1fr 1fr auto;
  gap: 10px;
  align-items: start;
}
.wide {
  grid-column: 1 / -1;
  margin: 0;
}
.drop {
  margin-top: 21px;
}
.add {
  justify-self: start;
}
</style>
