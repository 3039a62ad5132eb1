<script setup lang="ts">
import { protocols } from '#core/links/registry'
import { counted } from '#core/text/counted'

/** Every path from source to consumer, trouble first, each with what is happening and what to do. */
const live = useLive()
const lists = useLists()
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Line-up</h1>
      <span class="quiet">Every path from the plant to whoever uses it. Trouble first.</span>
      <span class="fill" />
      <span v-if="live.status" class="quiet mono"
        >{{ live.status.changesInPerSecond.toLocaleString('en-GB') }} changes/s in ·
        {{ live.status.changesOutPerSecond.toLocaleString('en-GB') }}/s out</span
      >
    </div>

    <p v-if="live.status && live.status.notInForceCount > 0" class="is-late open">
      {{ counted(live.status.notInForceCount, 'thing') }} not as configured. <NuxtLink to="/site">See what, and try again</NuxtLink>
    </p>
    <EmptyState
      v-if="lists.loaded && lists.links.length === 0"
      title="What do you want to connect first?"
      text="Choose what the device speaks. Name and address are enough to start; the check beside the sheet tells whether it answers."
    >
      <v-btn v-for="protocol in protocols" :key="protocol.kind" variant="flat" height="44" :to="`/links/new?kind=${protocol.kind}`">
        <span class="kind"
          ><strong>{{ protocol.title }}</strong
          ><small>{{ protocol.subtitle }}</small></span
        >
      </v-btn>
    </EmptyState>

    <LineUpTable v-else />
    <div v-if="lists.links.length > 0" class="pair">
      <LineUpClients />
      <LineUpOutlets />
    </div>
  </div>
</template>

<style scoped>
.open {
  margin: 0 0 10px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
  margin-top: 16px;
}
.kind {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 2px;
}
.kind small {
  font-weight: 400;
}
</style>
