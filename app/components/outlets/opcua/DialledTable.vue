<script setup lang="ts">
import { hostText } from '#core/opcua/endpointAddress'
import type { DialledStatus } from '#shared/outlets/opcuaServerStatus'

/** The clients that an outlet dials, and how that goes. */
defineProps<{ clients: readonly DialledStatus[]; security(client: number): string; identity(client: number): string }>()
</script>

<template>
  <section class="sheet dialled">
    <h2 class="sheet-title">Dialled clients <span class="quiet light">we open the connection, they come in over it</span></h2>
    <table class="rows">
      <thead>
        <tr>
          <th>Flow</th>
          <th>Awaits us at</th>
          <th>Now</th>
          <th>Security</th>
          <th>Identity</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(client, i) in clients" :key="i">
          <td><PipeGlyph :flow="client.flow" :width="38" /></td>
          <td class="mono">{{ hostText(client.host) }}:{{ client.port }}</td>
          <td>{{ client.sentence }}</td>
          <td>{{ security(i) }}</td>
          <td>{{ identity(i) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.dialled {
  padding: 12px 14px;
  overflow-x: auto;
}
.light {
  font-weight: 400;
}
</style>
