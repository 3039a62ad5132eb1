<script setup lang="ts">
/** The way of a bridge’s records, from what sets it off to the receipts. */
const id = Number(useRoute().params.id)
const lists = useLists()
const live = useLive()
await lists.whenLoaded()
const bridge = computed(() => lists.bridges.find((one) => one.id === id) ?? null)
const status = computed(() => live.status?.bridges.find((one) => one.id === id) ?? null)
const trail = computed(() => [
  { to: '/bridges', text: 'Bridges' },
  { to: `/bridges/${id}`, text: bridge.value?.name ?? 'Bridge' },
])
</script>

<template>
  <PathView :id="id" of="bridge" :flow="status?.flow ?? null" :sentence="status?.sentence ?? ''" :trail="trail">
    <template #buttons>
      <v-btn :to="`/bridges/${id}`">The bridge</v-btn>
    </template>
    <template #side="{ steps }">
      <WaySides :steps="steps" :running="false" />
    </template>
  </PathView>
</template>
