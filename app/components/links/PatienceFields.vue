<script setup lang="ts">
/** How long a link waits for the far side, and how long it pauses before it tries again. */
const patience = defineModel<{ connect: number; answer: number; retryFirst: number; retryMost: number }>({ required: true })
defineProps<{ message(path: string): string }>()
defineEmits<{ left: [path: string] }>()
</script>

<template>
  <NumberField
    v-model="patience.connect"
    label="Connects within"
    unit="ms"
    :message="message('patience.connect')"
    @left="$emit('left', 'patience.connect')"
  />
  <NumberField
    v-model="patience.answer"
    label="Answers within"
    unit="ms"
    :message="message('patience.answer')"
    @left="$emit('left', 'patience.answer')"
  />
  <NumberField
    v-model="patience.retryFirst"
    label="First pause before a retry"
    unit="ms"
    :message="message('patience.retryFirst')"
    @left="$emit('left', 'patience.retryFirst')"
  />
  <NumberField
    v-model="patience.retryMost"
    label="Longest pause"
    unit="ms"
    :message="message('patience.retryMost')"
    @left="$emit('left', 'patience.retryMost')"
  />
</template>
