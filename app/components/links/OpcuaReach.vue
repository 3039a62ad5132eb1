<script setup lang="ts">
import { hostText } from '#core/opcua/endpointAddress'
import type { OpcuaSettings } from '#core/opcua/settings'
import { isEverywhere, isOpenToOthers } from '#shared/outlets/doors'

/** Who opens the connection to a server, and where: we at its address, or the server at a door of ours. */
const settings = defineModel<OpcuaSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const message = (path: string) => props.messageFor(`settings.${path}`)
const left = (path: string) => emit('left', `settings.${path}`)
const ways = [
  { value: 'us', title: 'We dial the server', subtitle: 'as usual' },
  { value: 'server', title: 'The server dials us', subtitle: 'where nothing gets in to it (reverse connection)' },
] as const
/** What was typed for the other way comes back with it. */
let awaitedBefore: OpcuaSettings['awaits'] = { interface: '127.0.0.1', port: 4843, serverUri: '' }
const dials = computed({
  get: (): 'us' | 'server' => (settings.value.awaits ? 'server' : 'us'),
  set: (who) => {
    if (settings.value.awaits) awaitedBefore = settings.value.awaits
    settings.value.awaits = who === 'server' ? { ...awaitedBefore! } : null
  },
})
const live = useLive()
const isForOthers = computed(() => settings.value.awaits !== null && isOpenToOthers(settings.value.awaits))
/** What the server has to be told. */
const toDial = computed(() => {
  const { interface: address = '', port } = settings.value.awaits ?? {}
  const host = isEverywhere(address) ? (live.status?.interfaces[0]?.address ?? address) : address
  return `opc.tcp://${hostText(host)}:${port}`
})
const whatPasses = computed(() =>
  isForOthers.value
    ? 'From there to here one outgoing TCP port has to pass, and nothing the other way.'
    : 'Only servers on this machine can: choose the interface that faces the others.',
)
</script>

<template>
  <div class="reach" :class="{ awaits: settings.awaits }">
    <ChoiceField v-model="dials" label="Connection" :choices="ways" />
    <TextField
      v-if="!settings.awaits"
      v-model="settings.address"
      label="Address"
      mono
      placeholder="arm2.port.example:4840"
      :message="message('address')"
      @left="left('address')"
    />
    <template v-else>
      <InterfaceField v-model="settings.awaits.interface" :message="message('awaits.interface')" />
      <NumberField v-model="settings.awaits.port" label="Port" :message="message('awaits.port')" @left="left('awaits.port')" />
      <TextField
        v-model="settings.awaits.serverUri"
        class="wide"
        label="Application URI of the server"
        mono
        placeholder="whichever dials"
        :message="message('awaits.serverUri')"
        @left="left('awaits.serverUri')"
      />
      <p class="quiet wide">
        On the server, have it dial <span class="mono">{{ toDial }}</span>. {{ whatPasses }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.reach {
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  gap: 10px 12px;
  margin-bottom: 14px;
}
.reach.awaits {
  grid-template-columns: 210px minmax(0, 1fr) 100px;
}
.wide {
  grid-column: 1 / -1;
}
p {
  margin: 0;
}
</style>
