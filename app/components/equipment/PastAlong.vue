<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { counted } from '#core/text/counted'
import { momentText } from '#core/text/moment'
import { showPast, takePast } from '#shared/api/equipment'
import type { OfferedPast } from '#shared/equipment/equipment'

/** What was recorded of tags before one piece of equipment had them as inputs, and what comes of it, to be taken along part by part. */
const props = defineProps<{ id: number }>()
const lookAgainMs = 10_000
const notices = useNotices()
const live = useLive()
const offered = shallowRef<OfferedPast | null>(null)
const refused = shallowRef<Refused | null>(null)
const taken = ref(0)
const whole = ref(0)
const busy = ref(false)
let turn = 0

const look = async () => {
  const mine = ++turn
  const found = await callApi(showPast, { params: { id: props.id } }).catch(() => null)
  if (mine === turn) offered.value = found
}
watch(
  () => live.changes,
  () => busy.value || void look(),
  { immediate: true },
)
/** An input has to be recorded for a moment first. */
useIntervalFn(() => busy.value || void look(), lookAgainMs)
onUnmounted(() => {
  turn++
  busy.value = false
})

/** Each step ends with what it took: to stop keeps that. */
const take = async () => {
  busy.value = true
  refused.value = null
  taken.value = 0
  whole.value = offered.value!.samples
  try {
    while (busy.value) {
      const { samples, left } = await callApi(takePast, { params: { id: props.id } })
      taken.value += samples
      whole.value = Math.max(taken.value + left, 1)
      if (samples === 0 || left === 0) break
    }
    notices.tell(`${counted(taken.value, 'sample')} taken along.`)
  } catch (error) {
    refused.value = asRefused(error)
  }
  busy.value = false
  await look()
}
const all = computed(() => [...(offered.value?.inputs ?? []), ...(offered.value?.workedOut ?? [])])
const since = computed(() => Math.min(...all.value.map(({ from }) => from)))
const names = computed(() => all.value.map((one) => ('bound' in one ? `${one.path}: ${one.bound}` : one.path)).join('\n'))
const what = computed(() => {
  const { inputs, workedOut } = offered.value!
  const bound = `What ${counted(inputs.length, 'input')} ${inputs.length === 1 ? 'is' : 'are'} bound to was recorded before`
  const worked = `${counted(workedOut.length, 'property', 'properties')} can be worked out over what was before`
  return [inputs.length > 0 ? bound : '', workedOut.length > 0 ? worked : ''].filter(Boolean).join('; ')
})
</script>

<template>
  <div v-if="busy || refused || all.length > 0" class="past">
    <p v-if="busy" role="status">
      {{ taken.toLocaleString('en-GB') }} of about {{ counted(whole, 'sample') }} taken along
      <v-btn height="26" @click="busy = false">Stop here</v-btn>
    </p>
    <v-progress-linear v-if="busy" :model-value="(100 * taken) / whole" height="4" aria-label="Taken along" />
    <p v-else-if="all.length > 0" :title="names">
      {{ what }}, since {{ momentText(since) }}: about {{ counted(offered!.samples, 'sample') }}.
      <Allowed role="configure"><v-btn height="26" @click="take">Take that past along</v-btn></Allowed>
    </p>
    <FaultNote v-if="refused" :fault="refused.why" mild />
  </div>
</template>

<style scoped>
.past {
  margin-top: 6px;
}
</style>
