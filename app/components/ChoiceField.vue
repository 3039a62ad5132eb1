<script setup lang="ts" generic="T">
/** One of a few, each with a line that says what it means. */
const value = defineModel<T>({ required: true })
interface Choice {
  value: T
  title: string
  subtitle?: string
}
const props = defineProps<{ label: string; choices: readonly Choice[]; message?: string; mono?: boolean }>()
const explained = (choice: Choice) => (choice.subtitle ? { subtitle: choice.subtitle } : {})
/** What holds where nothing is chosen. */
const unchosen = computed(() => props.choices.find((choice) => choice.value === undefined)?.title ?? '')
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-select
      :id="id"
      v-model="value"
      :items="choices"
      :item-props="explained"
      :placeholder="unchosen"
      :error-messages="message ?? ''"
      :class="{ mono }"
    />
  </div>
</template>
