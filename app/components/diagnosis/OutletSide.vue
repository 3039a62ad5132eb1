<script setup lang="ts">
import type { OutletStatus } from '#shared/status'

/** Who is served here and how, and what of the way to a consumer cannot be measured from here. */
const props = defineProps<{ outlet: OutletStatus }>()
const troubled = computed(() => props.outlet.clients.filter(({ flow }) => flow !== 'flowing'))
</script>

<template>
  <section class="sheet side">
    <h2 class="sheet-title">Who comes here</h2>
    <p v-if="outlet.clients.length === 0" class="quiet">Nobody is connected now.</p>
    <ul v-else>
      <li v-for="client in outlet.clients.slice(0, 12)" :key="client.id">
        <PipeGlyph :flow="client.flow" :width="26" />
        <span class="name">{{ client.name }}</span>
        <span class="quiet what">{{ client.refused?.text ?? client.lastGot }}</span>
      </li>
    </ul>
    <p v-if="outlet.clients.length > 12" class="quiet">and {{ outlet.clients.length - 12 }} more</p>
    <p class="quiet">
      {{
        troubled.length > 0
          ? 'What is told of a client is what it was answered here.'
          : 'What lies between this machine and a consumer can only be measured from there: try the address of a door on the consumer’s machine.'
      }}
    </p>
  </section>
</template>

<style scoped>
.side {
  padding: 12px 18px;
}
ul {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 26px minmax(90px, 1fr) 2fr;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
}
.name,
.what {
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0 0;
}
</style>
