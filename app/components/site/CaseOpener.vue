<script setup lang="ts">
import { openCase } from '#shared/api/site'

/** Opens a handover pack here. */
const chooser = ref<HTMLInputElement | null>(null)
const lists = useLists()
const { busy, refused, attempt } = useAttempt()

const open = async () => {
  const file = chooser.value?.files?.[0]
  if (!file) return
  chooser.value!.value = ''
  await attempt(async () => {
    await callApi(openCase, { body: file }, { timeoutMs: 120_000 })
    await lists.refresh()
    await navigateTo('/site/case')
  })
}
</script>

<template>
  <span class="opener">
    <BusyButton :busy="busy" @click="chooser?.click()">Open a pack …</BusyButton>
    <input ref="chooser" type="file" class="visually-hidden" tabindex="-1" aria-label="A handover pack" accept=".zip" @change="open" />
  </span>
  <FaultNote v-if="refused" class="why" :fault="refused.why" />
</template>

<style scoped>
/* the file field that is not shown stays here */
.opener {
  position: relative;
}
.why {
  flex-basis: 100%;
}
</style>
