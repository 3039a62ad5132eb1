<script setup lang="ts">
/** A text of several lines. */
const value = defineModel<string>({ required: true })
withDefaults(defineProps<{ label: string; message?: string; placeholder?: string; hint?: string; rows?: number }>(), {
  message: '',
  placeholder: '',
  hint: '',
  rows: 3,
})
const emit = defineEmits<{ left: [] }>()
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <textarea
      :id="id"
      v-model="value"
      class="mono area"
      :class="{ wrong: message }"
      :rows="rows"
      :placeholder="placeholder"
      spellcheck="false"
      autocomplete="off"
      @blur="emit('left')"
    />
    <p v-if="message" class="is-broken under">{{ message }}</p>
    <p v-else-if="hint" class="quiet under">{{ hint }}</p>
  </div>
</template>

<style scoped>
.area {
  display: block;
  width: 100%;
  padding: 6px 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--surface);
  color: inherit;
  line-height: 1.45;
  resize: vertical;
}
.area:focus {
  border-color: var(--primary);
  outline: none;
}
.area.wrong {
  border-color: var(--break);
}
.under {
  margin: 3px 0 0;
  font-size: 12px;
}
</style>
