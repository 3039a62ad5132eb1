<script setup lang="ts">
import { byteOrders } from '#core/isotcp/layout'
import { isoTcpSettings, type IsoTcpSettings } from '#core/isotcp/settings'
import { connectionKinds, connectionKindText, tsapOf, tsapText } from '#core/isotcp/tsap'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'

/** What belongs to a link to a controller: host, and rack and slot or the TSAPs; the rest folded, readable as a line. */
const settings = defineModel<IsoTcpSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const ways = [
  { value: 'slot' as const, title: 'rack and slot' },
  { value: 'tsap' as const, title: 'both TSAPs', subtitle: 'for controllers that name their places otherwise' },
]
const kinds = connectionKinds.map((kind) => ({ value: kind, title: kind, subtitle: connectionKindText[kind] }))
const orders = byteOrders.map((order) => ({ value: order, title: order === 'big' ? 'highest first, as is usual' : 'lowest first' }))
/** What was typed for the other way, in case somebody comes back to it. */
const others = new Map<string, IsoTcpSettings['way']>()
const chooseWay = (by: IsoTcpSettings['way']['by']) => {
  const { way } = settings.value
  others.set(way.by, way)
  settings.value.way = others.get(by) ?? isoTcpSettings.shape.way.parse({ by })
}
const farTsap = computed(() => {
  const { way } = settings.value
  return way.by === 'slot' && Number.isInteger(way.rack) && Number.isInteger(way.slot) ? tsapText(tsapOf(way.kind, way.rack, way.slot)) : ''
})

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { interval, order, patience, requests, writes, localAddress } = settings.value
  return {
    reading: `every ${ms(interval)}, numbers ${order === 'big' ? 'highest byte first' : 'lowest byte first'}`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    requests: `${requests.size} bytes, ${requests.parallel} under way, ${counted(requests.connections, 'connection')}, across gaps of ${requests.readAcross} bytes`,
    writes: `${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most`,
    network: localAddress || 'as this machine chooses',
  }
})
const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))
</script>

<template>
  <div class="first">
    <TextField
      v-model="settings.host"
      label="Host"
      mono
      placeholder="10.8.2.11 or converter.port.example"
      :message="message('host')"
      @left="left('host')"
    />
    <NumberField v-model="settings.port" label="Port" :message="message('port')" @left="left('port')" />
    <ChoiceField :model-value="settings.way.by" label="Its place by" :choices="ways" @update:model-value="chooseWay" />
  </div>
  <div v-if="settings.way.by === 'slot'" class="place">
    <NumberField v-model="settings.way.rack" label="Rack" :message="message('way.rack')" @left="left('way.rack')" />
    <NumberField v-model="settings.way.slot" label="Slot" :message="message('way.slot')" @left="left('way.slot')" />
    <ChoiceField v-model="settings.way.kind" label="Kind of connection" :choices="kinds" />
    <p class="quiet">
      far TSAP <span class="mono">{{ farTsap || '—' }}</span>
    </p>
  </div>
  <div v-else class="place">
    <TextField v-model="settings.way.ours" label="Our TSAP" mono :message="message('way.ours')" @left="left('way.ours')" />
    <TextField v-model="settings.way.theirs" label="Far TSAP" mono :message="message('way.theirs')" @left="left('way.theirs')" />
  </div>

  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('interval', 'order')">
    <NumberField v-model="settings.interval" label="Read every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <ChoiceField v-model="settings.order" label="Bytes of a number" :choices="orders" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Requests" :summary="summary.requests" :has-problem="wrong('requests')">
    <NumberField
      v-model="settings.requests.size"
      label="Size of a request"
      unit="bytes"
      hint="asked for; the controller may grant fewer"
      :message="message('requests.size')"
      @left="left('requests.size')"
    />
    <NumberField
      v-model="settings.requests.parallel"
      label="Under way per connection"
      hint="asked for; the controller may grant fewer"
      :message="message('requests.parallel')"
      @left="left('requests.parallel')"
    />
    <NumberField
      v-model="settings.requests.connections"
      label="Connections"
      hint="more bring more, as far as there are places"
      :message="message('requests.connections')"
      @left="left('requests.connections')"
    />
    <NumberField
      v-model="settings.requests.readAcross"
      label="Gaps read across, up to"
      unit="bytes"
      :message="message('requests.readAcross')"
      @left="left('requests.readAcross')"
    />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('writes')">
    <WriteFields v-model="settings.writes" :message="message('writes.within')" @left="left('writes.within')" />
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
.first,
.place {
  display: grid;
  grid-template-columns: 1fr 110px 170px;
  gap: 12px;
  margin-bottom: 14px;
}
.place {
  grid-template-columns: 90px 90px 1fr auto;
  align-items: start;
}
.place p {
  margin: 26px 0 0;
  font-size: 12px;
}
</style>
