<script setup lang="ts">
import type { Tag } from '#shared/tags'
import { isRanges, scalingText, type GainScaling, type RangeScaling, type Scaling } from '#core/tags/curve'

/** How a raw value becomes one in the tag’s unit, with the curve of it. */
const scaling = defineModel<Scaling | null>({ required: true })
defineProps<{ tag: Tag | null; unit: string; messageFor: (path: string) => string }>()
defineEmits<{ left: [path: string] }>()

type Way = 'none' | 'gain' | 'ranges'
const ways = [
  { value: 'none' as const, title: 'as it comes', subtitle: 'the raw value is the value' },
  { value: 'gain' as const, title: 'gain and offset', subtitle: 'raw × gain + offset' },
  { value: 'ranges' as const, title: 'range to range', subtitle: 'raw ends to ends in the unit; root, stops, sign' },
]
const curveChoices = [
  { value: 'linear' as const, title: 'linear' },
  { value: 'root' as const, title: 'square root', subtitle: 'of the share: flow from a difference of pressure' },
]
const clampChoices = [
  { value: 'none' as const, title: 'go on' },
  { value: 'low' as const, title: 'stop at low' },
  { value: 'high' as const, title: 'stop at high' },
  { value: 'both' as const, title: 'stop at both' },
]
const signChoices = [
  { value: false, title: 'as it is' },
  { value: true, title: 'turned around' },
]
const chosen = ref<Way>(scaling.value === null ? 'none' : isRanges(scaling.value) ? 'ranges' : 'gain')
/** What was typed for the other way, in case somebody comes back to it. */
const kept: { gain: GainScaling; ranges: RangeScaling } = {
  gain: { gain: 1, offset: 0 },
  ranges: { kind: 'ranges', raw: { low: 0, high: 27648 }, to: { low: 0, high: 100 }, curve: 'linear', clamp: 'none', inverted: false },
}
const choose = (way: Way) => {
  if (scaling.value) Object.assign(kept, isRanges(scaling.value) ? { ranges: scaling.value } : { gain: scaling.value })
  chosen.value = way
  scaling.value = way === 'none' ? null : kept[way]
}
watch(scaling, (now) => {
  if (now) chosen.value = isRanges(now) ? 'ranges' : 'gain'
  else if (chosen.value === 'ranges') chosen.value = 'none'
})

const gains = computed<GainScaling>(() => (scaling.value && !isRanges(scaling.value) ? scaling.value : { gain: 1, offset: 0 }))
const setGain = (part: Partial<Record<'gain' | 'offset', number | null>>) => {
  const next = { ...gains.value, ...part }
  scaling.value = { gain: next.gain ?? NaN, offset: next.offset ?? NaN }
}
const ranges = computed(() => (scaling.value && isRanges(scaling.value) ? scaling.value : null))
const setRanges = (part: Partial<RangeScaling>) => {
  if (ranges.value) scaling.value = { ...ranges.value, ...part }
}
const ends = [
  { side: 'raw', end: 'low', label: 'Raw from' },
  { side: 'raw', end: 'high', label: 'Raw to' },
  { side: 'to', end: 'low', label: 'Is from' },
  { side: 'to', end: 'high', label: 'Is to' },
] as const
</script>

<template>
  <fieldset class="framed scaling">
    <legend>Scaling</legend>
    <div class="fields">
      <ChoiceField :model-value="chosen" label="Scaled" :choices="ways" @update:model-value="choose" />
      <template v-if="chosen === 'gain'">
        <NumberField
          :model-value="gains.gain"
          label="Gain"
          :message="messageFor('scaling.gain')"
          @update:model-value="setGain({ gain: $event })"
          @left="$emit('left', 'scaling.gain')"
        />
        <NumberField
          :model-value="gains.offset"
          label="Offset"
          :message="messageFor('scaling.offset')"
          @update:model-value="setGain({ offset: $event })"
          @left="$emit('left', 'scaling.offset')"
        />
      </template>
      <template v-else-if="ranges">
        <NumberField
          v-for="{ side, end, label } in ends"
          :key="label"
          :model-value="ranges[side][end]"
          :label="label"
          :unit="side === 'to' ? unit : ''"
          :message="messageFor(`scaling.${side}.${end}`)"
          @update:model-value="setRanges({ [side]: { ...ranges[side], [end]: $event ?? NaN } })"
          @left="$emit('left', `scaling.${side}.${end}`)"
        />
        <ChoiceField :model-value="ranges.curve" label="Curve" :choices="curveChoices" @update:model-value="setRanges({ curve: $event })" />
        <ChoiceField
          :model-value="ranges.clamp"
          label="Beyond the ends"
          :choices="clampChoices"
          @update:model-value="setRanges({ clamp: $event })"
        />
        <ChoiceField
          :model-value="ranges.inverted"
          label="Sign"
          :choices="signChoices"
          @update:model-value="setRanges({ inverted: $event })"
        />
      </template>
      <slot />
    </div>
    <ScalingCurve v-if="ranges" :scaling="ranges" :tag="tag" :unit="unit" />
    <p v-if="scaling" class="quiet mono line">{{ scalingText(scaling) }}</p>
  </fieldset>
</template>

<style scoped>
.scaling {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px 14px;
  align-items: start;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
  gap: 8px 12px;
}
.line {
  grid-column: 1 / -1;
  margin: 0;
  font-size: 12px;
}
</style>
