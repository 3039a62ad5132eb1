<script setup lang="ts">
/** The bridges that go over a link, either way. */
const props = defineProps<{ linkId: number; always: boolean }>()
const lists = useLists()
const live = useLive()
const those = computed(() =>
  lists.bridges
    .filter(({ when, send }) => [...when, ...send].some((part) => 'linkId' in part && part.linkId === props.linkId))
    .map(({ id, name }) => ({ id, name, status: live.status?.bridges.find((one) => one.id === id) ?? null })),
)
</script>

<template>
  <section v-if="always || those.length" class="sheet block">
    <h2 class="sheet-title">Bridges</h2>
    <p v-if="those.length === 0" class="quiet">No bridge goes over this link yet. <NuxtLink to="/bridges/new">Make one</NuxtLink></p>
    <ul v-else>
      <li v-for="one in those" :key="one.id">
        <NuxtLink :to="`/bridges/${one.id}`">{{ one.name }}</NuxtLink>
        <PipeGlyph :flow="one.status?.flow ?? 'waiting'" :width="38" />
        <span :class="one.status?.flow === 'flowing' ? 'quiet' : `is-${one.status?.flow}`">{{ one.status?.sentence }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  margin-top: 12px;
}
p {
  margin: 4px 0 0;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  overflow-wrap: anywhere;
}
</style>
