<script setup lang="ts">
const value = defineModel<string>({ required: true })
const props = defineProps<{ label: string; message?: string; placeholder?: string; mono?: boolean; autofocus?: boolean; hint?: string }>()
const emit = defineEmits<{ left: [] }>()
const id = useId()
const box = useTemplateRef<{ focus: () => void }>('box')
// at once: whoever begins to type in another field is not taken out of it a moment later
onMounted(() => props.autofocus && box.value?.focus())
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-text-field
      :id="id"
      ref="box"
      :model-value="value"
      :class="{ mono }"
      :placeholder="placeholder ?? ''"
      :error-messages="message ?? ''"
      :hint="hint ?? ''"
      :persistent-hint="!!hint"
      spellcheck="false"
      autocomplete="off"
      @update:model-value="value = $event ?? ''"
      @blur="emit('left')"
    />
  </div>
</template>
