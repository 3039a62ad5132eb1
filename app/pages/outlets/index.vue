<script setup lang="ts">
import { outletTitles } from '#shared/outlets/outlet'

const live = useLive()
const lists = useLists()
const statusOf = (id: number) => live.status?.outlets.find((outlet) => outlet.id === id) ?? null
useListKeys(() => '/outlets/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Outlets</h1>
      <span class="quiet">Where consumers come to get the values.</span>
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/outlets/new">New outlet</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="lists.loaded && lists.outlets.length === 0"
      title="Nothing serves the values yet"
      text="An outlet lets SCADA and other programs read, subscribe and write the tags."
    >
      <Allowed role="configure"><v-btn variant="flat" to="/outlets/new">Open an OPC UA server</v-btn></Allowed>
    </EmptyState>
    <section v-else class="sheet">
      <table class="rows">
        <thead>
          <tr>
            <th>Name</th>
            <th>Flow</th>
            <th>What is happening</th>
            <th>Kind</th>
            <th>Address to give out</th>
            <th class="number">Clients</th>
            <th class="number">Items</th>
            <th class="number">Changes/s</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="outlet in lists.outlets"
            :key="outlet.id"
            class="opens"
            tabindex="0"
            @click="navigateTo(`/outlets/${outlet.id}`)"
            @keydown.enter="navigateTo(`/outlets/${outlet.id}`)"
          >
            <td>
              <strong>{{ outlet.name }}</strong>
            </td>
            <td><PipeGlyph :flow="statusOf(outlet.id)?.flow ?? 'waiting'" /></td>
            <td :class="`is-${statusOf(outlet.id)?.flow}`">{{ statusOf(outlet.id)?.sentence ?? 'The engine is not there' }}</td>
            <td>{{ outletTitles[outlet.kind] }}</td>
            <td class="mono">
              {{
                statusOf(outlet.id)
                  ?.doors.map(({ address }) => address)
                  .join(', ') || '—'
              }}
            </td>
            <td class="number">{{ statusOf(outlet.id)?.clients.length ?? '—' }}</td>
            <td class="number">{{ statusOf(outlet.id)?.items ?? '—' }}</td>
            <td class="number">{{ statusOf(outlet.id)?.changesPerSecond ?? '—' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
strong {
  font-weight: 600;
}
</style>
