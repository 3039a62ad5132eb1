<script setup lang="ts">
/** The way to one outlet, from the inside out. */
const id = Number(useRoute().params.id)
const lists = useLists()
const live = useLive()
await lists.whenLoaded()
const outlet = computed(() => lists.outlets.find((one) => one.id === id) ?? null)
const status = computed(() => live.status?.outlets.find((one) => one.id === id) ?? null)
const trail = computed(() => [
  { to: '/outlets', text: 'Outlets' },
  { to: `/outlets/${id}`, text: outlet.value?.name ?? 'Outlet' },
])
</script>

<template>
  <PathView :id="id" of="outlet" :flow="status?.flow ?? null" :sentence="status?.sentence ?? ''" :trail="trail">
    <template #buttons>
      <v-btn :to="`/outlets/${id}`">The outlet</v-btn>
    </template>
    <template #side>
      <OutletSide v-if="status" :outlet="status" />
    </template>
  </PathView>
</template>
