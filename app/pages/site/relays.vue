<script setup lang="ts">
import { listPairingCodes, listRelays } from '#shared/api/relays'
import type { PairingOffer, Relay } from '#shared/pairing'

/** Copies of this application that are paired with this one, and the two ways to pair with another. */
const live = useLive()
const session = useSession()
const relays = shallowRef<Relay[] | null>(null)
const offers = shallowRef<PairingOffer[]>([])
const refused = shallowRef<Refused | null>(null)
const again = shallowRef<Relay | null>(null)
const { own } = useOwnCertificate()

const load = async () => {
  try {
    const [paired, codes] = await Promise.all([callApi(listRelays), session.can('configure') ? callApi(listPairingCodes) : []])
    relays.value = paired
    offers.value = codes
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => live.changes, load, { immediate: true })
const everyMs = 1500
const isOpen = computed(() => offers.value.some(({ state }) => state === 'open' || state === 'pairing'))
const timer = setInterval(() => isOpen.value && void load(), everyMs)
onUnmounted(() => clearInterval(timer))
</script>

<template>
  <div class="page">
    <SiteHead />
    <FaultNote v-if="refused" :fault="refused.why" />
    <RelayTable v-if="relays?.length" :relays="relays" @changed="load" @again="again = $event" />
    <section v-else-if="relays" class="sheet part">
      <h2 class="sheet-title">Nothing is paired yet</h2>
      <p>
        Where firewalls, domains or address translation stand between here and the devices, run a second copy of Keen Conduit there and pair
        the two. Between them there is one secured connection over one TCP port, OPC UA, which either side may open; gaps are filled after
        an outage.
      </p>
      <p class="quiet">Make a code at the copy that can be dialled, and use it at the one that can dial.</p>
    </section>
    <div v-if="session.can('configure')" class="columns">
      <div class="stack">
        <CodeMaker :again="again" @made="load" @anew="again = null" />
        <OpenCodes :offers="offers" :fingerprint="own?.facts.fingerprint ?? ''" @changed="load" />
      </div>
      <CodeUser :again="again" @paired="load" />
    </div>
  </div>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 14px;
  align-items: start;
  margin-top: 14px;
}
.stack {
  display: grid;
  gap: 14px;
}
p {
  margin: 6px 0;
  max-width: 100ch;
}
</style>
