<script setup lang="ts">
import type { EquipmentOf, Model } from '#core/equipment/model'
import { nameOf } from '#core/tags/path'

/** Equipment level by level, side by side: each column is what the one open to its left consists of. */
const props = defineProps<{ model: Model; at: EquipmentOf | null }>()
const emit = defineEmits<{ open: [id: number] }>()

const columns = computed(() => {
  const way = props.at?.path.split('/') ?? []
  const places = way.map((_, i) => way.slice(0, i + 1).join('/'))
  return ['', ...places]
    .map((place, i) => ({ place, items: sorted(props.model.children(place)), open: places[i] ?? null }))
    .filter(({ items }, i) => i === 0 || items.length > 0)
})
const sorted = (items: readonly EquipmentOf[]) => [...items].sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }))
const titleOf = (place: string) => (place === '' ? 'Outermost' : nameOf(place))
const unboundIn = (one: EquipmentOf) =>
  props.model.propertiesOf(one.class).filter(({ made, name }) => made.kind === 'input' && !one.bindings[name]).length

const step = (event: KeyboardEvent, by: number) => {
  event.preventDefault()
  const { at, model } = props
  if (!at) return
  const siblings = sorted(model.children(at.path.includes('/') ? at.path.slice(0, at.path.lastIndexOf('/')) : ''))
  const next = siblings[siblings.findIndex(({ id }) => id === at.id) + by]
  if (next) emit('open', next.id)
}
const inward = () => {
  const [first] = props.at ? sorted(props.model.children(props.at.path)) : []
  if (first) emit('open', first.id)
}
const outward = () => {
  const parent = props.at && props.model.byPath.get(props.at.path.slice(0, props.at.path.lastIndexOf('/')))
  if (parent) emit('open', parent.id)
}
</script>

<template>
  <div
    class="columns"
    tabindex="0"
    role="group"
    aria-label="Equipment"
    @keydown.down="step($event, 1)"
    @keydown.up="step($event, -1)"
    @keydown.right.prevent="inward"
    @keydown.left.prevent="outward"
  >
    <div v-for="column in columns" :key="column.place" class="column">
      <h2 class="quiet">{{ titleOf(column.place) }}</h2>
      <button
        v-for="one in column.items"
        :key="one.id"
        type="button"
        tabindex="-1"
        :class="{ open: column.open === one.path }"
        :aria-current="at?.id === one.id ? 'true' : undefined"
        @click="emit('open', one.id)"
      >
        <span class="name">{{ nameOf(one.path) }}</span>
        <span v-if="unboundIn(one)" class="is-late" title="inputs that are not bound">{{ unboundIn(one) }} unbound</span>
        <span v-else class="quiet">{{ model.children(one.path).length || '' }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: flex;
  overflow: auto;
  height: 100%;
}
.columns:focus-visible {
  outline: 2px solid var(--copper);
  outline-offset: -2px;
}
.column {
  flex: 0 0 190px;
  border-right: 1px solid var(--line-soft);
  overflow: auto;
}
h2 {
  font: inherit;
  margin: 0;
  padding: 7px 12px;
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.column button {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  height: 30px;
  align-items: center;
  padding: 0 12px;
  text-align: left;
}
.column button:hover {
  background: var(--tint);
}
.column .open {
  background: var(--tint);
  font-weight: 600;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.column button span:last-child {
  font-weight: 400;
  font-size: 12px;
  white-space: nowrap;
}
</style>
