<script setup lang="ts">
import type { Destination } from '#core/bridges/settings'

/** Whether a table is parted by time, and how its parts are looked after. */
type Parts = Extract<Destination, { kind: 'table' }>['parts']
const parts = defineModel<Parts>({ required: true })
const props = defineProps<{ columns: readonly string[]; path: string; messageFor(path: string): string }>()

const isOn = computed({
  get: () => parts.value !== null,
  set: (on) => (parts.value = on ? { column: props.columns[0] ?? '', per: 'month', ahead: 2, keep: null } : null),
})
const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const choices = computed(() => props.columns.filter(Boolean).map((name) => ({ value: name, title: name })))
const pers = [
  { value: 'day' as const, title: 'a day' },
  { value: 'month' as const, title: 'a month' },
]
</script>

<template>
  <v-switch v-model="isOn" label="The table is parted by time" class="wide" />
  <template v-if="parts">
    <ChoiceField v-model="parts.column" label="By the column" :choices="choices" :message="message('column')" />
    <ChoiceField v-model="parts.per" label="Each part holds" :choices="pers" />
    <NumberField v-model="parts.ahead" label="Made ahead" unit="parts" :message="message('ahead')" />
    <NumberField
      v-model="parts.keep"
      label="Drop parts older than"
      unit="days"
      hint="with all their rows; empty: none"
      :message="message('keep')"
    />
  </template>
</template>
