<script setup lang="ts">
const value = defineModel<string>({ required: true })
defineProps<{ label: string; message?: string; placeholder?: string; mono?: boolean; autofocus?: boolean; hint?: string }>()
const emit = defineEmits<{ left: [] }>()
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-text-field
      :id="id"
      :model-value="value"
      :class="{ mono }"
      :placeholder="placeholder ?? ''"
      :error-messages="message ?? ''"
      :autofocus="autofocus"
      :hint="hint ?? ''"
      :persistent-hint="!!hint"
      spellcheck="false"
      autocomplete="off"
      @update:model-value="value = $event ?? ''"
      @blur="emit('left')"
    />
  </div>
</template>
