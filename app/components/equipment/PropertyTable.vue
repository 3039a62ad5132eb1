<script setup lang="ts">
import { madeText } from '#core/equipment/words'
import { isGood, qualityText } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import { clockText, momentText } from '#core/text/moment'
import type { ShownEquipment, ShownProperty } from '#shared/equipment/equipment'

/** Everything that a piece of equipment has: what makes each value, and what it is now. */
const props = defineProps<{ equipment: ShownEquipment }>()
const live = useLive()
const { copied, copy } = useCopy()
const words = { constant: 'constant', input: 'input', formula: 'formula', rollup: 'rollup', gather: 'of children' }

watch(
  () => props.equipment.properties.flatMap(({ tagId }) => tagId ?? []),
  (ids) => live.show('equipment', ids),
  { immediate: true },
)
onUnmounted(() => live.show('equipment', []))
const valueOf = ({ tagId }: ShownProperty) => (tagId === null ? undefined : live.values.get(tagId))
const qualityOf = (property: ShownProperty) => {
  const value = valueOf(property)
  if (property.of.kind === 'input' && property.of.path === '') return 'waiting for a binding'
  if (property.of.kind === 'constant' && property.of.value === null) return 'waiting for a value'
  return value ? qualityText(value.quality) : '—'
}
/** What is worked out has no more digits than anybody reads. */
const shownValue = (property: ShownProperty) => {
  const value = valueOf(property)?.value
  const isWorkedOut = typeof value === 'number' && ['formula', 'rollup', 'gather'].includes(property.of.kind)
  return valueText(isWorkedOut ? Number(value.toPrecision(7)) : value, property.type)
}
const isBad = (property: ShownProperty) => {
  const value = valueOf(property)
  return value !== undefined && !isGood(value.quality)
}
const sinceText = (property: ShownProperty) => {
  const value = valueOf(property)
  if (!value?.sourceTime || property.of.kind === 'constant') return ''
  const isToday = new Date(value.sourceTime).toDateString() === new Date(live.status?.now ?? Date.now()).toDateString()
  return isToday ? clockText(value.sourceTime).slice(0, 8) : momentText(value.sourceTime)
}
const ownText = (property: ShownProperty) => {
  if (property.of.kind !== 'constant') return madeText(property.of)
  return property.name in props.equipment.constants ? 'own value' : property.of.value === null ? 'no value yet' : 'as the class has it'
}
</script>

<template>
  <table class="rows" aria-label="Properties">
    <thead>
      <tr>
        <th><span class="visually-hidden">Kind</span></th>
        <th>Property</th>
        <th>Made from</th>
        <th class="number">Now</th>
        <th>Unit</th>
        <th>Quality</th>
        <th>Since</th>
        <th><span class="visually-hidden">Where it is</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="property in equipment.properties" :key="property.path">
        <td class="quiet kind">{{ words[property.made.kind] }}</td>
        <td :title="property.description || property.name">
          <strong>{{ property.title || property.name }}</strong>
          <span v-if="property.from !== equipment.class" class="quiet"> · {{ property.from }}</span>
        </td>
        <td class="mono made" :class="{ 'is-late': ownText(property) === 'not bound' || ownText(property) === 'no value yet' }">
          {{ ownText(property) }}
        </td>
        <td class="number now">{{ shownValue(property) }}</td>
        <td>{{ property.unit }}</td>
        <td :class="{ 'is-late': isBad(property) }">{{ qualityOf(property) }}</td>
        <td class="mono">{{ sinceText(property) }}</td>
        <td class="acts">
          <NuxtLink v-if="property.tagId !== null" :to="`/tags?tag=${property.tagId}`">tag</NuxtLink>
          <NuxtLink v-if="property.tagId !== null" :to="`/trends?tags=${property.tagId}`">trend</NuxtLink>
          <button type="button" class="act" @click="copy(property.path)">{{ copied === property.path ? 'copied' : 'copy path' }}</button>
        </td>
      </tr>
      <tr v-if="equipment.properties.length === 0">
        <td colspan="8" class="quiet">
          {{
            equipment.class === '' ? 'It has no class, and so no properties: it holds others together.' : 'Its class has no properties yet.'
          }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.kind {
  white-space: nowrap;
  width: 90px;
}
strong {
  font-weight: 600;
}
.made {
  font-size: 12px;
  overflow-wrap: anywhere;
  max-width: 360px;
}
.now {
  font-weight: 600;
}
.acts {
  text-align: right;
  white-space: nowrap;
  font-size: 12px;
}
.acts > * {
  margin-left: 10px;
}
.act {
  color: var(--primary);
}
</style>
