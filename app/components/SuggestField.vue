<script setup lang="ts">
/** A text for which there are some at hand, and which may be another one. */
const value = defineModel<string>({ required: true })
defineProps<{ label: string; among: readonly string[]; message?: string; placeholder?: string; hint?: string }>()
const emit = defineEmits<{ left: [] }>()
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-text-field
      :id="id"
      :model-value="value"
      class="mono"
      :list="`${id}-among`"
      :placeholder="placeholder ?? ''"
      :error-messages="message ?? ''"
      :hint="hint ?? ''"
      :persistent-hint="!!hint"
      spellcheck="false"
      autocomplete="off"
      @update:model-value="value = $event ?? ''"
      @blur="emit('left')"
    />
    <datalist :id="`${id}-among`">
      <option v-for="one in among" :key="one" :value="one" />
    </datalist>
  </div>
</template>
