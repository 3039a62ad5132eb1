<script setup lang="ts">
/** How writes wait for their turn: the same for every protocol that queues them. */
const writes = defineModel<{ keep: 'all' | 'latest'; within: number }>({ required: true })
defineProps<{ message: string }>()
defineEmits<{ left: [] }>()
const keeps = [
  { value: 'all' as const, title: 'all, in order', subtitle: 'every write reaches the far side' },
  { value: 'latest' as const, title: 'only the latest per tag', subtitle: 'a newer value replaces one still waiting' },
]
</script>

<template>
  <ChoiceField v-model="writes.keep" label="Waiting writes" :choices="keeps" />
  <NumberField
    v-model="writes.within"
    label="Waits at most"
    unit="ms"
    hint="what was not sent by then is not sent"
    :message="message"
    @left="$emit('left')"
  />
</template>
