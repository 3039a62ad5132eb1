<script setup lang="ts">
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Outlet, OutletDraft } from '#shared/outlets/outlet'

const lists = useLists()
await lists.whenLoaded()
const taken = new Set(lists.outlets.flatMap((outlet) => outlet.settings.doors.map(({ port }) => port)))
const port = [4840, 4841, 4842, 4843, 4844].find((candidate) => !taken.has(candidate)) ?? 4850
const initial: OutletDraft = {
  name: taken.size === 0 ? 'OPC UA server' : '',
  kind: 'opcua-server',
  on: true,
  settings: opcuaServerSettings.parse({ doors: [{ port }] }),
}
const opened = (outlet: Outlet) => navigateTo(`/outlets/${outlet.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/outlets" class="trail">Outlets ›</NuxtLink>
      <h1>New OPC UA server</h1>
      <span class="fill" />
      <v-btn to="/outlets">Discard</v-btn>
    </div>
    <p class="quiet">
      A new one listens on this machine’s loopback address only, without security, so nobody else can reach it, until you open a door to
      others.
    </p>
    <OutletSheet :initial="initial" :outlet="null" @saved="opened" />
  </div>
</template>
