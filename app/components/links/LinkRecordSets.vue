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
    .map((set) => ({
      id: set.id,
      name: set.name,
      what: howText(set.how),
      status: live.status?.recordSets.find((one) => one.id === set.id) ?? null,
    })),
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
      <ul>
        <li v-for="one in sets" :key="one.id">
          <NuxtLink :to="`/records/${one.id}`">{{ one.name }}</NuxtLink>
          <PipeGlyph :flow="one.status?.flow ?? 'waiting'" :width="38" />
          <span :class="one.status?.flow === 'flowing' ? 'quiet' : `is-${one.status?.flow}`">{{ one.status?.sentence }}</span>
          <span class="quiet">{{ one.what }}</span>
        </li>
      </ul>
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
