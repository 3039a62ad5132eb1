<script setup lang="ts">
import { disconnectClient } from '#shared/api/outlets'
import { ageText, wholeSeconds } from '#core/text/duration'
import type { ClientStatus } from '#shared/status'

/** Who is connected to an outlet, as whom, what each asked and got; and the way to send one out. */
const props = defineProps<{ outletId: number; clients: readonly ClientStatus[] }>()
const live = useLive()
const notices = useNotices()
const ago = (at: number) => ageText((live.status?.now ?? at) - at)

const disconnect = async (client: ClientStatus) => {
  try {
    await callApi(disconnectClient, { params: { id: props.outletId }, body: { client: client.id } })
    notices.tell(`${client.name} was disconnected. It may come back by itself.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">Clients</h2>
    <table v-if="clients.length" class="rows">
      <thead>
        <tr>
          <th>Flow</th>
          <th>Client</th>
          <th>As</th>
          <th class="number">Items</th>
          <th>Last asked, and got</th>
          <th><span class="d-sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="client in clients" :key="client.id">
          <td><PipeGlyph :flow="client.flow" :width="38" /></td>
          <td>
            {{ client.name }}
            <span class="below quiet"
              ><span class="mono">{{ client.from }}</span
              >, since {{ wholeSeconds((live.status?.now ?? client.since) - client.since) }}</span
            >
          </td>
          <td>
            {{ client.identity }}<span class="below quiet">{{ client.security }}</span>
          </td>
          <td class="number">{{ client.items }}</td>
          <td>
            <span class="quiet">{{ client.lastAsked }} {{ ago(client.lastAskedAt) }}{{ client.lastGot && `: ${client.lastGot}` }}</span>
            <span v-if="client.refused" class="is-broken below">{{ client.refused.text }}, {{ ago(client.refused.at) }}</span>
          </td>
          <td>
            <Allowed role="operate"><v-btn height="24" @click="disconnect(client)">Disconnect</v-btn></Allowed>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">Nobody is connected. A client uses one of the addresses above.</p>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
  overflow-x: auto;
}
.part p {
  margin: 8px 0 0;
}
.below {
  display: block;
}
</style>
