<script setup lang="ts">
import { reportsText, type Reports } from '#core/tags/reports'

/** Which changes of a tag are passed on. */
const reports = defineModel<Reports | null>({ required: true })
const props = defineProps<{ unit: string; isNumeric: boolean; messageFor: (path: string) => string }>()
defineEmits<{ left: [path: string] }>()

const kinds = computed(() => [
  { value: 'absolute' as const, title: props.unit ? `in ${props.unit}` : 'in its unit' },
  { value: 'percent' as const, title: '% of the range' },
])
const none: Reports = { deadband: null, least: null, most: null }
const now = computed(() => reports.value ?? none)
const kind = ref(now.value.deadband?.kind ?? 'absolute')
const set = (part: Partial<Reports>) => {
  const next = { ...now.value, ...part }
  reports.value = Object.values(next).every((value) => value === null) ? null : next
}
const setBand = (value: number | null) => set({ deadband: value === null ? null : { kind: kind.value, value } })
const setKind = (next: 'absolute' | 'percent') => {
  kind.value = next
  if (now.value.deadband) set({ deadband: { kind: next, value: now.value.deadband.value } })
}
watch(
  () => reports.value?.deadband?.kind,
  (next) => next && (kind.value = next),
)
const summary = computed(() => reportsText(reports.value, props.unit) || 'each change')
const paths = ['reports.deadband.value', 'reports.deadband', 'reports.least', 'reports.most']
const hasProblem = computed(() => paths.some((path) => props.messageFor(path) !== ''))
</script>

<template>
  <SettingsFold title="Passed on" :summary="summary" :has-problem="hasProblem">
    <template v-if="isNumeric">
      <NumberField
        :model-value="now.deadband?.value ?? null"
        label="Deadband"
        hint="smaller changes are held back"
        :message="messageFor('reports.deadband.value') || messageFor('reports.deadband')"
        @update:model-value="setBand"
        @left="$emit('left', 'reports.deadband.value')"
      />
      <ChoiceField :model-value="kind" label="Deadband is" :choices="kinds" @update:model-value="setKind" />
    </template>
    <NumberField
      :model-value="now.least"
      label="At most every"
      unit="ms"
      hint="the newest waits so long"
      :message="messageFor('reports.least')"
      @update:model-value="set({ least: $event })"
      @left="$emit('left', 'reports.least')"
    />
    <NumberField
      :model-value="now.most"
      label="At least every"
      unit="ms"
      hint="also unchanged, if confirmed"
      :message="messageFor('reports.most')"
      @update:model-value="set({ most: $event })"
      @left="$emit('left', 'reports.most')"
    />
  </SettingsFold>
</template>
