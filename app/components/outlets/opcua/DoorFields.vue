<script setup lang="ts">
import { modeText, policies } from '#core/opcua/settings'
import { isOpenToOthers, type Door } from '#shared/outlets/opcuaServer'

/** One door: where it listens, how it is secured, and who may come in by it. */
const door = defineModel<Door>({ required: true })
const props = defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()
const live = useLive()

const message = (path: string) => props.messageFor(`settings.doors.${props.number - 1}.${path}`)
const interfaces = computed(() => {
  const own = (live.status?.interfaces ?? []).map(({ address, name }) => ({ value: address, title: address, subtitle: name }))
  const usual = [
    { value: '127.0.0.1', title: '127.0.0.1', subtitle: 'this machine only' },
    { value: '0.0.0.0', title: '0.0.0.0', subtitle: 'every interface of this machine' },
  ]
  const known = [...usual, ...own]
  return known.some(({ value }) => value === door.value.interface)
    ? known
    : [...known, { value: door.value.interface, title: door.value.interface, subtitle: 'not there now' }]
})
const policyChoices = policies.map((policy) => ({
  value: policy,
  title: policy,
  subtitle: policy === 'None' ? 'neither signed nor encrypted' : '',
}))
const modeChoices = (['SignAndEncrypt', 'Sign'] as const).map((mode) => ({ value: mode, title: modeText[mode] }))
const secures = computed(() => door.value.policies.some((policy) => policy !== 'None'))
const warns = computed(() => isOpenToOthers(door.value) && door.value.policies.includes('None'))
</script>

<template>
  <fieldset class="framed">
    <legend>Door {{ number }}</legend>
    <div class="grid">
      <ChoiceField v-model="door.interface" label="Interface" :choices="interfaces" mono :message="message('interface')" />
      <NumberField v-model="door.port" label="Port" :message="message('port')" @left="$emit('left', `settings.doors.${number - 1}.port`)" />
      <TextField
        v-model="door.giveOut"
        class="wide"
        label="Host to give out"
        mono
        placeholder="as the interface"
        :message="message('giveOut')"
        @left="$emit('left', `settings.doors.${number - 1}.giveOut`)"
      />
      <div class="wide">
        <label class="label">Policies</label>
        <v-select
          v-model="door.policies"
          :items="policyChoices"
          item-props
          multiple
          aria-label="Policies"
          :error-messages="message('policies')"
        />
      </div>
      <div v-if="secures" class="wide">
        <label class="label">Modes</label>
        <v-select v-model="door.modes" :items="modeChoices" multiple aria-label="Modes" :error-messages="message('modes')" />
      </div>
    </div>
    <div class="who">
      <v-checkbox v-model="door.anonymous" label="Anonymous" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and password" density="compact" hide-details />
      <v-checkbox v-model="door.certificates" label="By certificate" density="compact" hide-details />
      <v-checkbox v-model="door.on" label="Open" density="compact" hide-details />
      <v-btn v-if="!only" height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
    <p v-if="message('names')" class="is-broken">{{ message('names') }}</p>
    <p v-if="warns" class="is-late">Others can reach this door, and nothing on it is encrypted.</p>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 100px;
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-top: 4px;
}
p {
  margin: 4px 0 0;
}
</style>
