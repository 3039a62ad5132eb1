<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { duration } from '#core/text/duration'
import { tryLinkNow } from '#shared/api/links'

/** When a link tries again by itself what failed, and the way to have it tried now. */
const props = defineProps<{
  linkId: number
  /** One part of the far side; null: all of it. */
  unit: string | null
  /** Unix milliseconds, on the engine’s clock. */
  at: number
}>()
const live = useLive()
const session = useSession()
const notices = useNotices()
const now = useNow({ interval: 500 })
/** How far the engine’s clock is ahead of this one, ms. */
const ahead = ref(0)
watch(
  () => live.status?.now,
  (there) => there !== undefined && (ahead.value = there - Date.now()),
  { immediate: true },
)
const left = computed(() => Math.max(0, props.at - now.value.getTime() - ahead.value))
const busy = ref(false)
const tryNow = async () => {
  busy.value = true
  try {
    await callApi(tryLinkNow, { params: { id: props.linkId }, body: { unit: props.unit } })
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <p class="retry">
    <span class="quiet">{{ left >= 1000 ? `Tries again by itself in ${duration(Math.ceil(left / 1000) * 1000)}.` : 'Tries again.' }}</span>
    <BusyButton v-if="session.can('operate')" :busy="busy" height="26" @click="tryNow">Try now</BusyButton>
  </p>
</template>

<style scoped>
.retry {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 4px 0;
}
</style>
