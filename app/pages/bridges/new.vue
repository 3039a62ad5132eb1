<script setup lang="ts">
import type { Bridge } from '#shared/bridges/bridge'
import { blankBridge } from '~/bridges/blank'

const lists = useLists()
await lists.whenLoaded()
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
    <BridgeSheet :initial="blankBridge(lists.links)" :bridge="null" @saved="opened" />
  </div>
</template>
