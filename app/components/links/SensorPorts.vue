<script setup lang="ts">
import { counted } from '#core/text/counted'
import type { Link } from '#shared/links/link'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import type { LinkStatus } from '#shared/status'

/** The ports of a master: what is plugged in, what belongs there, and what devices report. */
const props = defineProps<{ link: Link; status: LinkStatus }>()
const { ports, refused } = useSensorPorts(() => props.link.id)
const flows = { free: 'off', arrived: 'late', taken: 'flowing', wrong: 'broken', away: 'broken' } as const
const flowOf = ({ verdict, problem, events }: SensorPortFound) =>
  verdict === 'taken' && problem !== '' ? 'broken' : verdict === 'taken' && events.length > 0 ? 'late' : flows[verdict]
const nameOf = ({ described, device, expected }: SensorPortFound) => described?.named || device?.productName || expected
</script>

<template>
  <section class="sheet part ports" aria-label="Ports">
    <h2 class="sheet-title">Ports</h2>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <p v-else-if="ports?.length === 0" class="quiet">
      {{ status.fault ? 'The master was not reached yet.' : 'What is plugged in stands here as soon as the master tells it.' }}
    </p>
    <div v-for="found in ports" :key="found.port" class="port">
      <div class="line">
        <strong>{{ found.port }}</strong>
        <PipeGlyph :flow="flowOf(found)" :width="38" />
        <span class="name" :title="nameOf(found)">{{ nameOf(found) || 'free' }}</span>
        <NuxtLink v-if="found.tags" :to="`/tags?link=${link.id}&find=${encodeURIComponent(`${found.port}:`)}`" class="tags">{{
          counted(found.tags, 'tag')
        }}</NuxtLink>
      </div>
      <p v-if="found.problem" class="is-broken detail">{{ found.problem }}</p>
      <p v-else class="quiet detail">
        {{ [found.words, found.device?.serialNumber && `serial number ${found.device.serialNumber}`].filter(Boolean).join(', ') }}
      </p>
      <p v-for="event in found.events" :key="event.code" class="is-late detail">Event {{ event.code }} {{ event.text }}</p>
    </div>
  </section>
</template>

<style scoped>
.part {
  margin-top: 12px;
}
.ports {
  padding: 12px 16px;
}
.port {
  border-top: 1px solid var(--line-soft);
  padding: 7px 0;
}
.line {
  display: grid;
  grid-template-columns: 22px 38px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.detail {
  margin: 2px 0 0 80px;
  font-size: 12px;
  overflow-wrap: anywhere;
}
p {
  margin: 2px 0 0;
  font-size: 12px;
}
</style>
