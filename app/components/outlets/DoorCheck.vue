<script setup lang="ts">
import { checkOutlet } from '#shared/api/outlets'
import { counted } from '#core/text/counted'
import { ageText } from '#core/text/duration'
import { hostText } from '#core/opcua/endpointAddress'
import { isOpenToOthers, type DoorPlace } from '#shared/outlets/doors'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { InterfaceStatus } from '#shared/status'

/** A door as a client finds it: what can be tried from here, what to ask of the firewall, and what to try over there. */
const props = defineProps<{
  outletId: number
  doors: readonly DoorPlace[]
  status: DoorStatus[]
  interfaces: InterfaceStatus[]
  now: number
}>()
const check = useCheck(checkOutlet)
const { copied, copy } = useCopy()
const session = useSession()
const chosen = ref(0)
const door = computed(() => props.doors[chosen.value])
const choices = computed(() => props.status.map(({ address }, i) => ({ value: i, title: address })))
const run = () => check.run({ params: { id: props.outletId }, body: { entry: chosen.value } })

/** In words that fit any firewall: direction, protocol, port, from where, to where. */
const rules = computed(() => {
  const one = door.value
  if (!one?.on || !isOpenToOthers(one)) return []
  return props.interfaces
    .filter(({ address }) => one.interface === '0.0.0.0' || one.interface === address)
    .map(({ address, network }) => `allow in · TCP ${one.port} · from ${network} · to ${address}`)
})
/** Follows by itself, also while nobody checks. */
const arrived = computed(() => {
  const { machines, last } = props.status[chosen.value]?.arrivals ?? { machines: 0, last: null }
  return last
    ? `${last.from} came ${ageText(props.now - last.at)}, ${counted(machines, 'machine')} so far.`
    : 'Nobody from another machine came yet.'
})
const tryThere = computed(() => {
  const address = props.status[chosen.value]?.address ?? ''
  const host = /^[a-z.]+:\/\/(.*):\d+$/.exec(address)?.[1] ?? ''
  return `nc -vz ${hostText(host).replace(/[[\]]/g, '')} ${door.value?.port}`
})
</script>

<template>
  <section class="sheet part">
    <div class="head">
      <h2 class="sheet-title">Seen from outside</h2>
      <v-select v-if="choices.length > 1" v-model="chosen" :items="choices" aria-label="Door" class="choice mono" />
      <span class="fill" />
      <v-btn v-if="check.running.value" height="26" @click="check.stop">Stop</v-btn>
      <v-btn v-else-if="session.can('operate')" height="26" :disabled="!door" @click="run">Check this door</v-btn>
    </div>
    <p v-if="!check.steps.value.length && !rules.length" class="quiet">
      {{ door && isOpenToOthers(door) ? 'Comes to the door as a client does, step by step.' : 'This door is for this machine only.' }}
    </p>
    <CheckSteps v-if="check.steps.value.length" :steps="check.steps.value" />
    <FaultNote v-if="check.failed.value?.fault" :fault="check.failed.value.fault" class="gap" />
    <FaultNote v-if="check.problem.value" :fault="check.problem.value.why" class="gap" />
    <template v-if="rules.length">
      <p class="quiet">To ask of the firewall:</p>
      <p v-for="rule in rules" :key="rule" class="mono line">
        {{ rule }} <v-btn height="22" @click="copy(rule)">{{ copied === rule ? 'Copied' : 'Copy' }}</v-btn>
      </p>
      <p class="quiet">To try on the consumer’s machine:</p>
      <p class="mono line">
        {{ tryThere }} <v-btn height="22" @click="copy(tryThere)">{{ copied === tryThere ? 'Copied' : 'Copy' }}</v-btn>
      </p>
      <p>{{ arrived }}</p>
    </template>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
}
.head {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 4px;
}
.fill {
  flex: 1;
}
.choice {
  max-width: 320px;
}
p {
  margin: 8px 0 0;
}
.line {
  margin-top: 4px;
}
.gap {
  margin-top: 10px;
}
</style>
