<script setup lang="ts">
import type { Bridge } from '#shared/bridges/bridge'
import { blankBridge, bridgeOn } from '~/bridges/blank'

const lists = useLists()
await lists.whenLoaded()
/** Somebody may come from a topic that comes in. */
const { topic, link, outlet } = useRoute().query
const initial =
  typeof topic !== 'string'
    ? blankBridge(lists)
    : link
      ? bridgeOn({ kind: 'message', linkId: Number(link), filter: topic, qos: 1 }, lists)
      : bridgeOn({ kind: 'client', outletId: Number(outlet), filter: topic }, lists)
const given = usePasted().take()
const opened = (bridge: Bridge) => navigateTo(`/bridges/${bridge.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/bridges" class="trail">Bridges ›</NuxtLink>
      <h1>New bridge</h1>
      <span class="fill" />
      <v-btn to="/bridges">Discard</v-btn>
    </div>
    <BridgeSheet :initial="given ?? initial" :blank="initial" :bridge="null" @saved="opened" />
  </div>
</template>
