<script setup lang="ts">
import type { IoLinkSettings } from '#core/iolink/settings'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'

/** What belongs to a master of smart sensors: where its interface is, how we sign in there; the rest folded, readable as a line. */
const settings = defineModel<IoLinkSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const wrong = (...paths: string[]) => paths.some((path) => props.hasProblem(`settings.${path}`))

const isClear = computed(() => /^http:/i.test(settings.value.base) && settings.value.signIn.kind !== 'none')
const ms = (value: number) => (Number.isFinite(value) ? duration(value) : '—')
const summary = computed(() => {
  const { trust, interval, parameters, look, atOnce, patience, within, ports, master } = settings.value
  return {
    trust: trust.verify ? (trust.authority ? 'their certificate verified by an authority given here' : 'their certificate verified') : 'their certificate is not verified', // prettier-ignore
    use: `process data every ${ms(interval)}, parameters every ${ms(parameters)}, ports looked at every ${ms(look)}, ${atOnce} at once, master ${master}`,
    ports: ports.length === 0 ? 'nothing is taken yet' : `${counted(ports.length, 'port')} taken`,
    patience: `connects within ${ms(patience.connect)}, answers within ${ms(patience.answer)}, retries after ${ms(patience.retryFirst)} growing to ${ms(patience.retryMost)}`,
    writes: `all in order, waiting ${ms(within)} at most`,
  }
})
</script>

<template>
  <TextField
    v-model="settings.base"
    label="Base address"
    mono
    placeholder="http://10.0.9.4/iolink/v1"
    :message="message('base')"
    class="base"
    @left="left('base')"
  />
  <ApiSignInFields v-model="settings.signIn" :message="(field) => message(`signIn${field}`)" @left="left(`signIn.${$event}`)" />
  <p v-if="isClear" class="is-late clear">Nothing encrypts this connection: everybody on the way can read what signs us in.</p>
  <SettingsFold title="What belongs where" :summary="summary.ports" :has-problem="wrong('ports')">
    <div class="wide devices">
      <p class="quiet">
        A device belongs at its port once it was taken there. Another one in its place is told, and none of its values is good.
      </p>
      <div v-for="(device, i) in settings.ports" :key="i" class="device">
        <NumberField
          v-model="device.port"
          :label="`Port, line ${i + 1}`"
          :message="message(`ports.${i}.port`)"
          @left="left(`ports.${i}.port`)"
        />
        <NumberField
          v-model="device.vendorId"
          :label="`Vendor id, line ${i + 1}`"
          :message="message(`ports.${i}.vendorId`)"
          @left="left(`ports.${i}.vendorId`)"
        />
        <NumberField
          v-model="device.deviceId"
          :label="`Device id, line ${i + 1}`"
          :message="message(`ports.${i}.deviceId`)"
          @left="left(`ports.${i}.deviceId`)"
        />
        <v-btn height="26" class="drop" @click="settings.ports.splice(i, 1)">Drop</v-btn>
        <span v-if="device.named" class="quiet named">{{ device.named }}</span>
      </div>
    </div>
  </SettingsFold>
  <SettingsFold title="How often" :summary="summary.use" :has-problem="wrong('interval', 'parameters', 'look', 'atOnce', 'master')">
    <NumberField v-model="settings.interval" label="Process data every" unit="ms" :message="message('interval')" @left="left('interval')" />
    <NumberField
      v-model="settings.parameters"
      label="Parameters every"
      unit="ms"
      :message="message('parameters')"
      @left="left('parameters')"
    />
    <NumberField v-model="settings.look" label="Look at ports every" unit="ms" :message="message('look')" @left="left('look')" />
    <NumberField v-model="settings.atOnce" label="Requests at once" :message="message('atOnce')" @left="left('atOnce')" />
    <NumberField
      v-model="settings.master"
      label="Master"
      hint="of several behind one address"
      :message="message('master')"
      @left="left('master')"
    />
  </SettingsFold>
  <SettingsFold title="Protection" :summary="summary.trust" :has-problem="wrong('trust')">
    <TrustFields v-model="settings.trust" :message="(field) => message(`trust.${field}`)" @left="left(`trust.${$event}`)" />
  </SettingsFold>
  <SettingsFold title="Patience" :summary="summary.patience" :has-problem="wrong('patience')">
    <PatienceFields v-model="settings.patience" :message="message" @left="left" />
  </SettingsFold>
  <SettingsFold title="Writes" :summary="summary.writes" :has-problem="wrong('within')">
    <NumberField v-model="settings.within" label="A write waits at most" unit="ms" :message="message('within')" @left="left('within')" />
  </SettingsFold>
</template>

<style scoped>
.base {
  margin-bottom: 12px;
}
.clear {
  margin: 0 0 12px;
}
.wide {
  flex: 1 0 100%;
}
.devices {
  display: grid;
  gap: 8px;
}
.devices p {
  margin: 0;
  font-size: 12px;
}
.device {
  display: grid;
  grid-template-columns: 110px 130px 130px auto 1fr;
  gap: 8px;
}
.drop {
  margin-top: 22px;
}
.named {
  margin-top: 26px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
