<script setup lang="ts">
import { outletTraffic } from '#shared/api/outlets'
const id = Number(useRoute().params.id)
const lists = useLists()
await lists.whenLoaded()
const name = computed(() => lists.outlets.find((one) => one.id === id)?.name ?? 'Outlet')
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ name }} ›</NuxtLink>
      <h1>Traffic</h1>
      <span class="quiet">What passes at its connections while this page is open.</span>
    </div>
    <TrafficTable :id="id" :operation="outletTraffic" />
  </div>
</template>
