<script setup lang="ts">
import { listSensorPorts, takeSensor } from '#shared/api/links'
import { counted } from '#core/text/counted'
import type { Link } from '#shared/links/link'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import type { LinkStatus } from '#shared/status'

/** The ports of a master: what came and nobody decided about, with what it measures; and what belongs where. */
const props = defineProps<{ link: Link; status: LinkStatus }>()
const everyMs = 1000
const session = useSession()
const notices = useNotices()
const ports = shallowRef<SensorPortFound[] | null>(null)
const refused = shallowRef<Refused | null>(null)

const look = async () => {
  try {
    ports.value = await callApi(listSensorPorts, { params: { id: props.link.id } })
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
useRepeated(look, everyMs)

const undecided = computed(() => ports.value?.filter(({ verdict }) => verdict === 'arrived' || verdict === 'wrong') ?? [])
const flows = { free: 'off', arrived: 'late', taken: 'flowing', wrong: 'broken', away: 'broken' } as const
const flowOf = ({ verdict, problem, events }: SensorPortFound) =>
  verdict === 'taken' && problem !== '' ? 'broken' : verdict === 'taken' && events.length > 0 ? 'late' : flows[verdict]
const nameOf = ({ described, device, expected }: SensorPortFound) => described?.named || device?.productName || expected

const keep = async ({ port }: SensorPortFound) => {
  try {
    const { revision } = await callApi(takeSensor, { params: { id: props.link.id, port }, body: { folder: null } })
    notices.tell(`What is plugged in at port ${port} belongs there now.`, revision)
    await look()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <section v-if="undecided.length" class="part" aria-label="Arrivals">
    <ArrivedSensor
      v-for="found in undecided"
      :key="found.port"
      :link="link"
      :found="found"
      :may-take="session.can('configure')"
      @taken="look"
      @keep="keep(found)"
    />
  </section>
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
