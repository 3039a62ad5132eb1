<script setup lang="ts">
import type { RefusedPoint } from '#shared/status'

/** What the far side refuses, address by address, with the way to the tag. */
const props = defineProps<{ points: readonly RefusedPoint[]; count: number }>()
const more = computed(() => props.count - props.points.length)
</script>

<template>
  <ul class="refused" aria-label="Refused by the far side">
    <li v-for="point in points" :key="point.path">
      <NuxtLink :to="`/tags?find=${encodeURIComponent(point.path)}`">{{ point.path }}</NuxtLink>
      <span class="mono quiet">{{ point.address }}</span>
      <span class="quiet">{{ point.why }}</span>
    </li>
    <li v-if="more > 0" class="quiet">and {{ more.toLocaleString('en-GB') }} more</li>
  </ul>
</template>

<style scoped>
.refused {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  padding: 2px 0;
}
a,
span {
  overflow-wrap: anywhere;
}
</style>
