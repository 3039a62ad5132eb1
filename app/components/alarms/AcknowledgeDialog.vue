<script setup lang="ts">
import { counted } from '#core/text/counted'

/** Says that alarms were seen, and what is to be known of them. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ count: number; busy: boolean; refused: Refused | null; only: 'acknowledge' | 'comment' }>()
const emit = defineEmits<{ done: [comment: string] }>()
const comment = ref('')
watch(open, (now) => now && (comment.value = ''))
const title = computed(() => (props.only === 'comment' ? 'Say something of it' : `${counted(props.count, 'alarm')} seen`))
const isComplete = computed(() => props.only === 'acknowledge' || comment.value.trim() !== '')
</script>

<template>
  <v-dialog v-model="open" max-width="460" :aria-label="title">
    <form class="sheet ask" @submit.prevent="isComplete && emit('done', comment.trim())">
      <h2>{{ title }}</h2>
      <TextField
        v-model="comment"
        :label="only === 'comment' ? 'What is to be known' : 'What is to be known of it; may stay empty'"
        autofocus
      />
      <FaultNote v-if="refused" :fault="refused.why" mild />
      <div class="buttons">
        <v-btn @click="open = false">Back</v-btn>
        <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!isComplete">{{
          only === 'comment' ? 'Say it' : 'Acknowledge'
        }}</BusyButton>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.ask {
  display: grid;
  gap: 12px;
  padding: 16px 18px;
}
h2 {
  margin: 0;
  font-size: 16px;
  font-weight: 600;
}
.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 10px;
}
</style>
