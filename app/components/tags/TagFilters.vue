<script setup lang="ts">
import { rulesOf, sourceKinds } from '#shared/sources/registry'
import type { TagFilter } from '~/composables/useTagFilter'

/** What narrows a list of tags: words, where values come from, and what they are like. */
const find = defineModel<string>('find', { required: true })
const props = defineProps<{ filter: TagFilter }>()
const emit = defineEmits<{ set: [query: Record<string, string | null>] }>()
const lists = useLists()

/** Links, and the sources that are none. */
const origins = computed(() => [
  ...lists.pointLinks.map(({ id, name }) => ({ value: `link ${id}`, title: name })),
  ...sourceKinds.filter((kind) => kind !== 'point').map((kind) => ({ value: `source ${kind}`, title: rulesOf(kind).title })),
])
const origin = computed(() =>
  props.filter.link !== null ? `link ${props.filter.link}` : props.filter.source && `source ${props.filter.source}`,
)
const chooseOrigin = (chosen: string | null) => {
  const [name, value] = chosen?.split(' ') ?? []
  emit('set', { link: null, source: null, ...(name && { [name]: value! }) })
}

interface Narrowing {
  name: 'quality' | 'access' | 'noted'
  value: string
  title: string
}
const narrowings: Narrowing[] = [
  { name: 'quality', value: 'bad', title: 'bad now' },
  { name: 'quality', value: 'uncertain', title: 'uncertain now' },
  { name: 'quality', value: 'good', title: 'good now' },
  { name: 'noted', value: 'only', title: 'with a note' },
  { name: 'access', value: 'readwrite', title: 'may be written' },
  { name: 'access', value: 'read', title: 'only read' },
]
const isOn = ({ name, value }: Narrowing) => props.filter[name] === value
const on = computed(() => narrowings.filter(isOn))
</script>

<template>
  <v-text-field
    :model-value="find"
    data-filter
    class="filter"
    placeholder="Path, address or description"
    aria-label="Filter"
    clearable
    @update:model-value="find = $event ?? ''"
  />
  <v-select
    v-if="lists.links.length > 0"
    class="by-link"
    :model-value="origin"
    :items="origins"
    placeholder="every source"
    aria-label="Source"
    clearable
    @update:model-value="chooseOrigin"
  />
  <v-menu>
    <template #activator="{ props: activator }">
      <v-btn v-bind="activator" aria-label="Only tags that are">Only</v-btn>
    </template>
    <v-list density="compact">
      <v-list-item
        v-for="narrowing in narrowings"
        :key="narrowing.title"
        :title="narrowing.title"
        :active="isOn(narrowing)"
        @click="emit('set', { [narrowing.name]: isOn(narrowing) ? null : narrowing.value })"
      />
    </v-list>
  </v-menu>
  <button v-for="narrowing in on" :key="narrowing.title" type="button" class="chip" @click="emit('set', { [narrowing.name]: null })">
    {{ narrowing.title }} ✕
  </button>
</template>

<style scoped>
.filter {
  max-width: 260px;
  min-width: 140px;
  flex: 1;
}
.by-link {
  max-width: 170px;
  flex: 1;
}
</style>
