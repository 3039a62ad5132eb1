<script setup lang="ts">
import type { SampleMessage } from '#shared/bridges/preview'

/** A message of one’s own, to see what the bridge would make of it. Nothing is sent. */
const message = defineModel<SampleMessage | null>({ required: true })
const props = defineProps<{ filter: string }>()
const isOpen = ref(false)
const topic = ref('')
const payload = ref('')
const change = () => (message.value = payload.value === '' ? null : { topic: topic.value, payload: payload.value })
watch([topic, payload], change)
const open = () => {
  isOpen.value = true
  // a filter with its wildcards filled in is a topic to begin with
  if (topic.value === '') topic.value = props.filter.replace(/[+*]/g, '1').replace(/#$/, 'x')
}
const close = () => {
  isOpen.value = false
  payload.value = ''
}
</script>

<template>
  <section class="block">
    <button v-if="!isOpen" type="button" class="more" @click="open">Try it with a message of your own …</button>
    <div v-else class="sheet trial">
      <h2 class="sheet-title">Try it with this message</h2>
      <TextField v-model="topic" label="Topic" mono />
      <AreaField
        v-model="payload"
        label="Payload"
        placeholder='{"people": 12}'
        :rows="4"
        hint="what would leave is shown below; nothing is sent"
      />
      <v-btn @click="close">Back to the last one that came</v-btn>
    </div>
  </section>
</template>

<style scoped>
.block {
  margin-top: 12px;
}
.more {
  color: var(--primary);
}
.trial {
  display: grid;
  gap: 10px;
  padding: 12px 16px;
  justify-items: start;
}
.trial > :deep(div) {
  width: 100%;
}
</style>
