<script setup lang="ts">
import { healthFactNames, healthFactOf, healthKinds, isOfKind, isOfParts } from '#core/statistics/health'
import { listStatistics } from '#shared/api/statistics'
import type { AllStatistics } from '#shared/statistics'
import type { HealthSource } from '#shared/sources/health'
import type { Drawn } from '#shared/sources/source'

/** Which link, outlet or bridge a tag shows, and what of it. */
const draft = defineModel<Drawn<HealthSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const all = shallowRef<AllStatistics | null>(null)
onMounted(async () => {
  all.value = await callApi(listStatistics).catch(() => null)
})
const source = computed(() => draft.value.source)
const kinds = healthKinds.map((value) => ({ value, title: value }))
const things = computed(() => all.value?.[`${source.value.of}s`] ?? [])
const names = computed(() => things.value.map(({ name }) => name))
const parts = computed(() => {
  const { of, name } = source.value
  if (of === 'outlet') return all.value?.outlets.find((one) => one.name === name)?.clients.map(({ client }) => client.name) ?? []
  const among = of === 'link' ? all.value?.links : all.value?.bridges
  return among?.find((one) => one.name === name)?.parts.map((part) => part.name) ?? []
})
const facts = computed(() =>
  healthFactNames
    .filter((fact) => isOfKind(fact, source.value.of))
    .map((value) => ({ value, title: value, subtitle: healthFactOf(value).about })),
)
const set = (part: Partial<HealthSource>) => (draft.value.source = { ...source.value, ...part })
/** A unit comes with the fact, unless somebody gave another one. */
const setFact = (fact: HealthSource['fact']) => {
  const [before, after] = [healthFactOf(source.value.fact).unit, healthFactOf(fact).unit]
  if (draft.value.unit === before) draft.value.unit = after
  set({ fact, ...(isOfParts(fact) ? {} : { part: '' }) })
}
const setKind = (of: HealthSource['of']) => set({ of, name: '', part: '', ...(isOfKind(source.value.fact, of) ? {} : { fact: 'flows' }) })
</script>

<template>
  <ChoiceField :model-value="source.of" label="Of a" :choices="kinds" @update:model-value="setKind" />
  <SuggestField
    :model-value="source.name"
    :label="`The ${source.of}`"
    :among="names"
    :message="messageFor('source.name')"
    @update:model-value="set({ name: $event })"
    @left="$emit('left', 'source.name')"
  />
  <ChoiceField
    :model-value="source.fact"
    class="wide"
    label="What of it"
    :choices="facts"
    :message="messageFor('source.fact')"
    @update:model-value="setFact"
  />
  <SuggestField
    v-if="isOfParts(source.fact)"
    class="wide"
    :model-value="source.part"
    label="Only a part of it"
    placeholder="the whole"
    :among="parts"
    :message="messageFor('source.part')"
    @update:model-value="set({ part: $event })"
    @left="$emit('left', 'source.part')"
  />
  <slot name="type" />
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
</style>
