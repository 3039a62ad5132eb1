<script setup lang="ts">
/** The bridges that go over a link, either way. */
const props = defineProps<{ linkId: number; always: boolean }>()
const lists = useLists()
const live = useLive()
const those = computed(() =>
  lists.bridges
    .filter(({ when, send }) => [...when, ...send].some((part) => 'linkId' in part && part.linkId === props.linkId))
    .map(({ id, name }) => {
      const status = live.status?.bridges.find((one) => one.id === id)
      return { path: `/bridges/${id}`, name, flow: status?.flow ?? null, sentence: status?.sentence ?? null }
    }),
)
</script>

<template>
  <section v-if="always || those.length" class="sheet block">
    <h2 class="sheet-title">Bridges</h2>
    <p v-if="those.length === 0" class="quiet">No bridge goes over this link yet. <NuxtLink to="/bridges/new">Make one</NuxtLink></p>
    <FlowList v-else :items="those" />
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
</style>
