<script setup lang="ts">
import { protocols } from '#core/links/registry'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { Flow, LinkStatus } from '#shared/status'

/** Every path from source to consumer, trouble first, each with what is happening and what to do. */
const live = useLive()
const lists = useLists()

const urgency: Record<Flow, number> = { broken: 0, late: 1, flowing: 2, off: 3 }
const rows = computed(() =>
  lists.links
    .map((link) => ({ link, status: live.status?.links.find(({ id }) => id === link.id) ?? null }))
    .sort((a, b) => urgency[a.status?.flow ?? 'late'] - urgency[b.status?.flow ?? 'late'] || a.link.name.localeCompare(b.link.name)),
)
const openOutlets = computed(() => lists.outlets.filter((outlet) => outlet.on))
const clients = computed(() =>
  (live.status?.outlets ?? []).flatMap((outlet) =>
    outlet.clients.map((client) => ({
      ...client,
      outletId: outlet.id,
      outlet: lists.outlets.find(({ id }) => id === outlet.id)?.name ?? '',
    })),
  ),
)
const quietFor = (at: number) => Math.max(0, (live.status?.now ?? at) - at)
const clientFlow = (lastAskedAt: number): Flow => (quietFor(lastAskedAt) < 30_000 ? 'flowing' : 'late')
const units = (status: LinkStatus | null) => (status?.units && status.units.length > 1 ? status.units : [])
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Line-up</h1>
      <span class="quiet">Every path from the plant to whoever uses it. Trouble first.</span>
      <span class="fill" />
      <span v-if="live.status" class="quiet mono"
        >{{ live.status.changesInPerSecond.toLocaleString('en-GB') }} changes/s in ·
        {{ live.status.changesOutPerSecond.toLocaleString('en-GB') }}/s out</span
      >
    </div>

    <p v-if="live.status && live.status.notInForceCount > 0" class="is-late open">
      {{ counted(live.status.notInForceCount, 'thing') }} not as configured. <NuxtLink to="/site">See what, and try again</NuxtLink>
    </p>
    <EmptyState
      v-if="lists.loaded && lists.links.length === 0"
      title="What do you want to connect first?"
      text="Choose what the device speaks. Name and address are enough to start; the check beside the sheet tells whether it answers."
    >
      <v-btn v-for="protocol in protocols" :key="protocol.kind" variant="flat" height="44" :to="`/links/new?kind=${protocol.kind}`">
        <span class="kind"
          ><strong>{{ protocol.title }}</strong
          ><small>{{ protocol.subtitle }}</small></span
        >
      </v-btn>
    </EmptyState>

    <section v-else class="sheet lineup">
      <table class="rows">
        <thead>
          <tr>
            <th>Link</th>
            <th>Flow</th>
            <th>What is happening</th>
            <th class="number">Good tags</th>
            <th class="number">Answers in</th>
            <th>Feeds</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ link, status } in rows" :key="link.id" :data-link="link.name">
            <td class="name">
              <NuxtLink :to="`/links/${link.id}`"
                ><strong>{{ link.name }}</strong></NuxtLink
              >
              <span class="quiet">{{ protocols[link.kind].title }}</span>
            </td>
            <td><PipeGlyph :flow="status?.flow ?? 'waiting'" /></td>
            <td class="happening">
              <span :class="`is-${status?.flow}`">{{
                status?.sentence ?? (live.engineAway ? 'The engine is not there' : 'Asking the engine')
              }}</span>
              <NuxtLink v-if="status?.flow === 'broken' || status?.flow === 'late'" :to="`/links/${link.id}`" class="act">See why</NuxtLink>
              <span v-if="units(status).length" class="units">
                <span v-for="unit in units(status)" :key="unit.unit" :title="unit.sentence"
                  ><PipeGlyph :flow="unit.flow" :width="26" :text="`unit ${unit.unit}: ${unit.flow}`" />unit {{ unit.unit }}</span
                >
              </span>
            </td>
            <td class="number">{{ status ? `${status.goodTags} of ${status.tags}` : '—' }}</td>
            <td class="number">{{ status?.answerMs == null ? '—' : duration(status.answerMs) }}</td>
            <td class="feeds">
              <NuxtLink v-for="outlet in openOutlets" :key="outlet.id" class="chip" :to="`/outlets/${outlet.id}`">{{
                outlet.name
              }}</NuxtLink>
              <span v-if="openOutlets.length === 0" class="quiet">nobody yet</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>

    <div v-if="lists.links.length > 0" class="pair">
      <section class="sheet part">
        <h2 class="sheet-title">Clients on our outlets</h2>
        <table v-if="clients.length" class="rows">
          <tbody>
            <tr v-for="client in clients" :key="client.id">
              <td>{{ client.name }}</td>
              <td class="quiet">{{ client.outlet }} · {{ client.identity }}, {{ client.security }}</td>
              <td class="number">{{ client.items }} items</td>
              <td><PipeGlyph :flow="clientFlow(client.lastAskedAt)" :width="42" /></td>
            </tr>
          </tbody>
        </table>
        <p v-else class="quiet">Nobody is connected.</p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Outlets</h2>
        <table v-if="lists.outlets.length" class="rows">
          <tbody>
            <tr v-for="outlet in lists.outlets" :key="outlet.id">
              <td>
                <NuxtLink :to="`/outlets/${outlet.id}`">{{ outlet.name }}</NuxtLink>
              </td>
              <td class="quiet">{{ live.status?.outlets.find(({ id }) => id === outlet.id)?.sentence }}</td>
              <td><PipeGlyph :flow="live.status?.outlets.find(({ id }) => id === outlet.id)?.flow ?? 'waiting'" :width="42" /></td>
            </tr>
          </tbody>
        </table>
        <p v-else class="quiet">Nothing serves the values yet. <NuxtLink to="/outlets/new">Open an OPC UA server</NuxtLink></p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.open {
  margin: 0 0 10px;
}
.lineup {
  overflow-x: auto;
}
.name a {
  display: block;
  color: var(--ink);
  text-decoration: none;
}
.name a:hover {
  text-decoration: underline;
}
.name {
  max-width: 220px;
}
.name strong {
  font-weight: 600;
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.happening {
  min-width: 300px;
}
.act {
  margin-left: 10px;
  padding: 2px 8px;
  border: 1px solid var(--primary);
  border-radius: 5px;
  text-decoration: none;
  font-weight: 500;
  white-space: nowrap;
}
.units {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 4px;
  font-size: 12px;
  color: var(--quiet);
}
.units > span {
  display: flex;
  align-items: center;
  gap: 6px;
}
.feeds .chip {
  margin-right: 4px;
  color: var(--ink);
  text-decoration: none;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
  margin-top: 16px;
}
.part {
  padding: 12px 14px;
}
.part table {
  margin-top: 4px;
}
.part p {
  margin: 8px 0 2px;
}
.kind {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 2px;
}
.kind small {
  font-weight: 400;
}
</style>
