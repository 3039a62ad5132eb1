<script setup lang="ts">
import { addressOf } from '#shared/api/operation'
import { handoverPack } from '#shared/api/site'

/** Takes a handover pack along: whatever passed is chosen first, as it may hold values of the plant. */
const lists = useLists()
const extents = [
  { title: 'With what passed everywhere', value: 'all' },
  { title: 'With what passed at some …', value: 'some' },
  { title: 'Without what passed', value: 'none' },
] as const
const extent = ref<(typeof extents)[number]['value']>('all')
const chosen = ref<string[]>([])

const things = computed(() => [
  ...lists.links.map(({ id, name }) => ({ title: name, value: `link-${id}` })),
  ...lists.outlets.map(({ id, name }) => ({ title: `${name}, outlet`, value: `outlet-${id}` })),
])
const isOpen = computed(() => extent.value === 'some' && chosen.value.length === 0)
const traffic = computed(() => {
  if (extent.value === 'all') return {}
  return { traffic: extent.value === 'none' ? 'none' : chosen.value.join(',') }
})
</script>

<template>
  <div class="choice">
    <v-select v-model="extent" :items="extents" aria-label="What passed, in the pack" />
    <v-select
      v-if="extent === 'some'"
      v-model="chosen"
      :items="things"
      multiple
      placeholder="Links and outlets"
      aria-label="Links and outlets of which it tells what passed"
    />
  </div>
  <v-btn :href="isOpen ? undefined : `/api${addressOf(handoverPack, { query: traffic })}`" :disabled="isOpen" download
    >Take the pack along</v-btn
  >
</template>

<style scoped>
.choice {
  display: grid;
  gap: 8px;
  flex-basis: 100%;
  margin-bottom: 10px;
}
</style>
