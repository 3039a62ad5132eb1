<script setup lang="ts">
import { itemText } from '#core/records/items'
import type { RecordSource } from '#shared/sources/record'
import type { Drawn } from '#shared/sources/source'

/** Part of a record set: what it is, the set says. */
const draft = defineModel<Drawn<RecordSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()
const lists = useLists()
const name = computed(() => lists.recordSets.find(({ id }) => id === draft.value.source.recordSetId)?.name ?? 'a record set')
</script>

<template>
  <div class="wide">
    <span class="label">Made by</span>
    <p>
      <NuxtLink :to="`/records/${draft.source.recordSetId}`">{{ name }}</NuxtLink>: <span class="mono">{{ itemText(draft.source) }}</span>
    </p>
    <p class="hint quiet">Its type and whether it may be written follow the set. Path, unit and description are yours.</p>
  </div>
  <slot name="type" />
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
p {
  margin: 4px 0 0;
}
</style>
