<script setup lang="ts">
/** A number with its unit. What is no number stays in the field and is told, and never reaches the draft as one. */
const value = defineModel<number | null>({ required: true })
defineProps<{ label: string; unit?: string; message?: string; hint?: string }>()
const emit = defineEmits<{ left: [] }>()

const text = ref(shown(value.value))
watch(value, (next) => {
  if (!Object.is(read(text.value), next)) text.value = shown(next)
})

function shown(number: number | null) {
  return number === null || Number.isNaN(number) ? '' : String(number)
}

function read(words: string | null): number | null {
  const trimmed = (words ?? '').trim().replace(',', '.')
  return trimmed === '' ? null : Number(trimmed)
}

const type = (words: string | null) => {
  text.value = words ?? ''
  value.value = read(text.value)
}
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-text-field
      :id="id"
      :model-value="text"
      inputmode="decimal"
      class="mono"
      :suffix="unit ?? ''"
      :error-messages="message ?? ''"
      :hint="hint ?? ''"
      :persistent-hint="!!hint"
      @update:model-value="type"
      @blur="emit('left')"
    />
  </div>
</template>
