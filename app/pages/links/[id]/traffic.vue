<script setup lang="ts">
import { linkTraffic } from '#shared/api/links'
const id = Number(useRoute().params.id)
const lists = useLists()
await lists.whenLoaded()
const link = computed(() => lists.links.find((one) => one.id === id) ?? null)
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink :to="`/links/${id}`" class="trail">{{ link?.name ?? 'Link' }} ›</NuxtLink>
      <h1>Traffic</h1>
      <span class="quiet">What passes at its connections while this page is open.</span>
    </div>
    <TrafficTable v-if="link" :id="id" :operation="linkTraffic" :kind="link.kind" asks />
  </div>
</template>
