<script setup lang="ts">
import { howText } from '#core/records/words'

/** The rows of a database that are tags. */
const props = defineProps<{ linkId: number }>()
const lists = useLists()
const live = useLive()
const session = useSession()
const sets = computed(() =>
  lists.recordSets
    .filter(({ linkId }) => linkId === props.linkId)
    .map(({ id, name, how }) => {
      const status = live.status?.recordSets.find((one) => one.id === id)
      return { path: `/records/${id}`, name, flow: status?.flow ?? null, sentence: status?.sentence ?? null, more: howText(how) }
    }),
)
</script>

<template>
  <section class="sheet block">
    <h2 class="sheet-title">Record sets</h2>
    <p v-if="sets.length === 0" class="quiet">
      None of its rows are tags yet.
      <NuxtLink v-if="session.can('configure')" :to="`/records/new?link=${linkId}`">Make tags of rows</NuxtLink>
    </p>
    <template v-else>
      <FlowList :items="sets" />
      <p v-if="session.can('configure')"><NuxtLink :to="`/records/new?link=${linkId}`">Make tags of more rows</NuxtLink></p>
    </template>
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
