<script setup lang="ts">
import type { Secret } from '#core/contracts/secret'

/** A secret: typed once, never shown again. One that is kept stays until another is typed. */
const secret = defineModel<Secret>({ required: true })
defineProps<{ label: string; message?: string; lines?: boolean }>()
defineEmits<{ left: [] }>()
const id = useId()
const text = computed({
  get: () => ('plain' in secret.value ? secret.value.plain : ''),
  set: (plain) => (secret.value = { plain: plain ?? '' }),
})
const placeholder = computed(() => ('plain' in secret.value ? '' : 'kept; type to change it'))
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-textarea
      v-if="lines"
      :id="id"
      v-model="text"
      rows="4"
      class="mono"
      :placeholder="placeholder"
      :error-messages="message ?? ''"
      @blur="$emit('left')"
    />
    <v-text-field
      v-else
      :id="id"
      v-model="text"
      type="password"
      autocomplete="new-password"
      :placeholder="placeholder"
      :error-messages="message ?? ''"
      @blur="$emit('left')"
    />
  </div>
</template>
