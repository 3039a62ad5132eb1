<script setup lang="ts">
import { takeSensor } from '#shared/api/links'
import type { Link } from '#shared/links/link'
import type { SensorPortFound } from '#shared/links/sensorPorts'

/** What was plugged in and nobody decided about, or what is not what belongs there. */
const props = defineProps<{ link: Link }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const notices = useNotices()
const { ports, look } = useSensorPorts(() => props.link.id)
const undecided = computed(() => ports.value?.filter(({ verdict }) => verdict === 'arrived' || verdict === 'wrong') ?? [])

const changed = async () => {
  emit('changed')
  await look()
}
const keep = async ({ port }: SensorPortFound) => {
  try {
    const { revision } = await callApi(takeSensor, { params: { id: props.link.id, port }, body: { folder: null } })
    notices.tell(`What is plugged in at port ${port} belongs there now.`, revision)
    await changed()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <section v-if="undecided.length" aria-label="Arrivals">
    <ArrivedSensor
      v-for="found in undecided"
      :key="found.port"
      :link="link"
      :found="found"
      :may-take="session.can('configure')"
      @taken="changed"
      @keep="keep(found)"
    />
  </section>
</template>
