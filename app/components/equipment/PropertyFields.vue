<script setup lang="ts">
import { limitsLine } from '#core/alarms/words'
import { gatherWays, rollupWays, type Made, type Property } from '#core/equipment/settings'
import { gatherWord, overText, rollupWord } from '#core/equipment/words'
import { windowText, windowUnits } from '#core/equipment/windows'
import { scalarTypes } from '#core/tags/types'
import { blankMade, madeKinds } from '~/equipment/blank'
import { typedValue } from '~/equipment/typed'

/** One property of a class, and what makes its value. */
const property = defineModel<Property>({ required: true })
defineProps<{ names: readonly string[]; classes: readonly string[]; messageFor(field: string): string }>()
const emit = defineEmits<{ left: [field: string]; remove: [] }>()
const kind = computed({
  get: () => property.value.made.kind,
  set: (to: Made['kind']) => (property.value.made = blankMade(to)),
})
const types = scalarTypes.map((value) => ({ value, title: value }))
/** What is rolled up or gathered is a number of its own. */
const limitType = computed(() => (hasType.value ? property.value.type : 'float64'))
const hasType = computed(() => !['rollup', 'gather'].includes(kind.value))
const constantText = computed({
  get: () => (property.value.made.kind === 'constant' && property.value.made.value !== null ? String(property.value.made.value) : ''),
  set: (text: string) => {
    if (property.value.made.kind !== 'constant') return
    const trimmed = text.trim()
    property.value.made.value = trimmed === '' ? null : typedValue(trimmed, property.value.type)
  },
})
const rollupChoices = rollupWays.map((value) => ({ value, title: rollupWord(value) }))
const gatherChoices = gatherWays.map((value) => ({ value, title: gatherWord(value) }))
const unitChoices = windowUnits.map((value) => ({ value, title: value }))
const showChoices = [
  { value: 'last' as const, title: 'the last one that is over' },
  { value: 'running' as const, title: 'the one at hand, so far' },
]
/** How far a rollup reaches back. */
const reach = computed(() => {
  const { made } = property.value
  if (made.kind !== 'rollup' || !(made.over > 1)) return '1: one window after the other'
  return `the last ${overText(made)}, told every ${windowText(made.window)}`
})
const depthChoices = [
  { value: 'children' as const, title: 'its parts' },
  { value: 'all' as const, title: 'all below' },
]
</script>

<template>
  <div class="fields">
    <ChoiceField v-model="kind" label="What it is" :choices="madeKinds" />
    <TextField
      v-model="property.name"
      label="Name of the property"
      mono
      :message="messageFor('name')"
      placeholder="rated_power"
      @left="emit('left', 'name')"
    />
    <TextField
      v-model="property.title"
      label="Title"
      :message="messageFor('title')"
      placeholder="as people call it"
      @left="emit('left', 'title')"
    />
    <ChoiceField v-if="hasType" v-model="property.type" label="Type" :choices="types" :message="messageFor('type')" mono />
    <TextField v-model="property.unit" label="Unit" :message="messageFor('unit')" @left="emit('left', 'unit')" />
    <TextField
      v-if="property.made.kind === 'constant'"
      v-model="constantText"
      label="Value"
      mono
      placeholder="each has its own"
      :message="messageFor('made.value')"
      @left="emit('left', 'made.value')"
    />
    <v-checkbox v-else-if="property.made.kind === 'input'" v-model="property.made.alone" label="A tag is the input of one equipment only" />
    <TextField
      v-else-if="property.made.kind === 'formula'"
      v-model="property.made.formula"
      class="whole"
      label="Formula"
      mono
      placeholder="100 * power / rated_power"
      :message="messageFor('made.formula')"
      @left="emit('left', 'made.formula')"
    />
    <template v-else-if="property.made.kind === 'rollup'">
      <SuggestField
        v-model="property.made.of"
        label="Of the property"
        :among="names"
        :message="messageFor('made.of')"
        @left="emit('left', 'made.of')"
      />
      <ChoiceField v-model="property.made.how" label="How" :choices="rollupChoices" :message="messageFor('made.how')" />
      <NumberField
        v-model="property.made.window.count as number | null"
        label="Windows of"
        :message="messageFor('made.window.count')"
        @left="emit('left', 'made.window.count')"
      />
      <ChoiceField v-model="property.made.window.unit" label="Unit of time" :choices="unitChoices" />
      <NumberField
        v-model="property.made.over as number | null"
        label="Together with those before"
        :hint="reach"
        :message="messageFor('made.over')"
        @left="emit('left', 'made.over')"
      />
      <ChoiceField v-model="property.made.shows" label="Which window" :choices="showChoices" />
    </template>
    <template v-else>
      <TextField v-model="property.made.of" label="Of the property" mono :message="messageFor('made.of')" @left="emit('left', 'made.of')" />
      <ChoiceField v-model="property.made.how" label="How" :choices="gatherChoices" />
      <ChoiceField v-model="property.made.depth" label="Of" :choices="depthChoices" />
      <SuggestField
        v-model="property.made.class"
        label="Only of the class"
        :among="classes"
        placeholder="any"
        :message="messageFor('made.class')"
        @left="emit('left', 'made.class')"
      />
    </template>
    <TextField
      v-model="property.description"
      class="whole"
      label="Description"
      :message="messageFor('description')"
      @left="emit('left', 'description')"
    />
    <div class="whole">
      <SettingsFold
        title="Limits"
        :summary="limitsLine(property.limits).replaceAll('NaN', '…') || 'none: no value is an alarm'"
        :has-problem="messageFor('limits') !== '' || property.limits.some((_, i) => messageFor(`limits.${i}.at`) !== '')"
      >
        <LimitFields
          v-model="property.limits"
          :type="limitType"
          :unit="property.unit"
          :names="[]"
          :message="(field) => messageFor(field === '' ? 'limits' : `limits.${field}`)"
          @left="emit('left', `limits.${$event}`)"
        />
      </SettingsFold>
    </div>
    <div><v-btn height="26" color="break" @click="emit('remove')">Take this property out</v-btn></div>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 12px;
  padding: 6px 4px 14px;
  align-items: start;
}
.whole {
  grid-column: 1 / -1;
}
</style>
