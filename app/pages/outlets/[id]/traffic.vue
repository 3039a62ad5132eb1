<script setup lang="ts">
import { outletTraffic } from '#shared/api/outlets'
const id = Number(useRoute().params.id)
const lists = useLists()
await lists.whenLoaded()
const outlet = computed(() => lists.outlets.find((one) => one.id === id) ?? null)
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ outlet?.name ?? 'Outlet' }} ›</NuxtLink>
      <h1>Traffic</h1>
      <span class="quiet">What passes at its connections while this page is open.</span>
    </div>
    <TrafficTable v-if="outlet" :id="id" :operation="outletTraffic" :kind="outlet.kind" :asks="false" />
  </div>
</template>
