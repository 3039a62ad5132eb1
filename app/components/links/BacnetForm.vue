<script setup lang="ts">
import { bacnetSettings, type BacnetSettings, type NoticeKind } from '#core/bacnet/settings'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'

/** What belongs to a link to building services: our port, how devices are found; the rest folded, readable as a line. */
const settings = defineModel<BacnetSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

type Way = 'broadcast' | 'foreign'
const ways: { value: Way; title: string; subtitle: string }[] = [
  { value: 'broadcast', title: 'by broadcast', subtitle: 'devices in the same network' },
  { value: 'foreign', title: 'through a broadcast manager', subtitle: 'devices in a network behind routers' },
]
/** What was typed of a manager, in case somebody comes back to it. */
let manager: BacnetSettings['foreign'] = null
const chooseWay = (way: Way) => {
  if (settings.value.foreign) manager = settings.value.foreign
  settings.value.foreign =
    way === 'foreign' ? (manager ?? { ...bacnetSettings.shape.foreign.unwrap().unwrap().parse({ host: 'none' }), host: '' }) : null
}
const way = computed((): Way => (settings.value.foreign ? 'foreign' : 'broadcast'))
const notices: { value: NoticeKind; title: string; subtitle: string }[] = [
  { value: 'unconfirmed', title: 'without a receipt', subtitle: 'cheapest; what is lost is found by comparing' },
  { value: 'confirmed', title: 'with a receipt', subtitle: 'the device sends again what was not confirmed' },
  { value: 'off', title: 'not at all', subtitle: 'every tag is polled' },
]
const addDevice = () => settings.value.devices.push({ instance: 1, host: '', port: 47_808 })

const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { interval, patience, requests, writes, notices: told, devices } = settings.value
  return {
    reading: `every ${ms(interval)} what is not told, ${requests.most} objects in a request, ${requests.flags ? 'with' : 'without'} status flags`,
    notices: told.kind === 'off' ? 'off' : `${told.kind}, for ${told.lifetime} s, compared each ${told.compare} s`,
    devices: devices.length === 0 ? 'none; all are looked for' : counted(devices.length, 'device'),
    patience: `answers within ${ms(patience.answer)}, asked ${patience.repeats + 1} times, looked for after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    writes: `${writes.priority === null ? 'no priority is named' : `at priority ${writes.priority}`}, ${writes.keep === 'all' ? 'all in order' : 'only the latest per tag'}, waiting ${ms(writes.within)} at most`,
  }
})
</script>

<template>
  <div class="first">
    <TextField
      v-model="settings.localAddress"
      label="Our interface"
      mono
      placeholder="all of this machine"
      hint="its address, as in 10.0.5.2"
      :message="message('localAddress')"
      @left="left('localAddress')"
    />
    <NumberField
      v-model="settings.port"
      label="Our UDP port"
      hint="47808 is usual; 0: any"
      :message="message('port')"
      @left="left('port')"
    />
    <ChoiceField :model-value="way" label="Devices are found" :choices="ways" @update:model-value="chooseWay" />
  </div>
  <div v-if="settings.foreign" class="first">
    <TextField
      v-model="settings.foreign.host"
      label="Broadcast manager"
      mono
      placeholder="10.9.0.1 or bbmd.port.example"
      :message="message('foreign.host')"
      @left="left('foreign.host')"
    />
    <NumberField v-model="settings.foreign.port" label="Its port" :message="message('foreign.port')" @left="left('foreign.port')" />
    <NumberField
      v-model="settings.foreign.lifetime"
      label="Taken for"
      unit="s"
      hint="renewed at half of it"
      :message="message('foreign.lifetime')"
      @left="left('foreign.lifetime')"
    />
  </div>
  <div v-else class="first">
    <TextField
      v-model="settings.broadcast"
      label="Broadcasts go to"
      mono
      placeholder="all of the interface’s network"
      :message="message('broadcast')"
      @left="left('broadcast')"
    />
    <TextField
      v-model="settings.ask"
      label="Numbers asked for"
      mono
      placeholder="all"
      hint="as in 4000-4099"
      :message="message('ask')"
      @left="left('ask')"
    />
  </div>

  <SettingsFold title="Known addresses" :summary="summary.devices" :has-problem="wrong('devices')">
    <div class="devices">
      <p class="quiet">Devices that broadcasts do not reach, or that are to be asked at this address only.</p>
      <div v-for="(device, i) in settings.devices" :key="i" class="device">
        <NumberField
          v-model="device.instance"
          :label="`Device ${i + 1}`"
          :message="message(`devices.${i}.instance`)"
          @left="left(`devices.${i}.instance`)"
        />
        <TextField
          v-model="device.host"
          :label="`Host ${i + 1}`"
          mono
          placeholder="10.0.7.21"
          :message="message(`devices.${i}.host`)"
          @left="left(`devices.${i}.host`)"
        />
        <NumberField
          v-model="device.port"
          :label="`Port ${i + 1}`"
          :message="message(`devices.${i}.port`)"
          @left="left(`devices.${i}.port`)"
        />
        <v-btn height="26" class="drop" @click="settings.devices.splice(i, 1)">Drop</v-btn>
      </div>
      <v-btn height="26" @click="addDevice">+ device</v-btn>
    </div>
  </SettingsFold>
  <SettingsFold title="Changes are told" :summary="summary.notices" :has-problem="wrong('notices')">
    <ChoiceField v-model="settings.notices.kind" label="Devices tell changes" :choices="notices" />
    <NumberField
      v-model="settings.notices.lifetime"
      label="A subscription lasts"
      unit="s"
      hint="renewed at half of it"
      :message="message('notices.lifetime')"
      @left="left('notices.lifetime')"
    />
    <NumberField
      v-model="settings.notices.compare"
      label="Compared with a reading every"
      unit="s"
      hint="finds notifications that do not arrive"
      :message="message('notices.compare')"
      @left="left('notices.compare')"
    />
  </SettingsFold>
  <SettingsFold title="Reading" :summary="summary.reading" :has-problem="wrong('interval', 'requests')">
    <NumberField v-model="settings.interval" label="Read every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <NumberField
      v-model="settings.requests.most"
      label="Objects in a request"
      hint="a device that takes less is asked for less"
      :message="message('requests.most')"
      @left="left('requests.most')"
    />
    <NumberField
      v-model="settings.requests.parallel"
      label="Under way per device"
      :message="message('requests.parallel')"
      @left="left('requests.parallel')"
    />
    <v-checkbox v-model="settings.requests.flags" label="Read status flags beside each value" density="compact" hide-details />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <NumberField
      v-model="settings.patience.answer"
      label="Answers within"
      unit="ms"
      :message="message('patience.answer')"
      @left="left('patience.answer')"
    />
    <NumberField
      v-model="settings.patience.repeats"
      label="Asked again, times"
      :message="message('patience.repeats')"
      @left="left('patience.repeats')"
    />
    <NumberField
      v-model="settings.patience.retryFirst"
      label="First pause before it is looked for"
      unit="ms"
      :message="message('patience.retryFirst')"
      @left="left('patience.retryFirst')"
    />
    <NumberField
      v-model="settings.patience.retryMost"
      label="Longest pause"
      unit="ms"
      :message="message('patience.retryMost')"
      @left="left('patience.retryMost')"
    />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('writes')">
    <NumberField
      v-model="settings.writes.priority"
      label="Priority"
      hint="1 to 16; empty: none is named"
      :message="message('writes.priority')"
      @left="left('writes.priority')"
    />
    <WriteFields v-model="settings.writes" :message="message('writes.within')" @left="left('writes.within')" />
  </SettingsFold>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: 1fr 130px 1fr;
  gap: 12px;
  margin-bottom: 14px;
}
.devices {
  flex: 1 0 100%;
  display: grid;
  gap: 8px;
  justify-items: start;
}
.devices p {
  margin: 0;
  font-size: 12px;
}
.device {
  display: grid;
  grid-template-columns: 120px 1fr 110px auto;
  gap: 8px;
  width: 100%;
}
.drop {
  margin-top: 22px;
}
</style>
