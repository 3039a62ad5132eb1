<script setup lang="ts">
import { linkTraffic } from '#shared/api/links'
const id = Number(useRoute().params.id)
const lists = useLists()
await lists.whenLoaded()
const name = computed(() => lists.links.find((one) => one.id === id)?.name ?? 'Link')
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink :to="`/links/${id}`" class="trail">{{ name }} ›</NuxtLink>
      <h1>Traffic</h1>
      <span class="quiet">What passes at its connections while this page is open.</span>
    </div>
    <TrafficTable :id="id" :operation="linkTraffic" />
  </div>
</template>
