<script setup lang="ts">
import type { BridgeDraft } from '#core/bridges/settings'

/** Whether bursts become one delivery. */
const gather = defineModel<BridgeDraft['gather']>({ required: true })
const props = defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const isOn = computed({
  get: () => gather.value !== null,
  set: (on) => (gather.value = on ? { within: 1000, most: 1000 } : null),
})
const message = (field: string) => props.messageFor(`gather.${field}`)
</script>

<template>
  <div class="fields">
    <v-switch v-model="isOn" label="What comes in a burst goes together" />
    <template v-if="gather">
      <NumberField
        v-model="gather.within"
        label="At the latest after"
        unit="ms"
        :message="message('within')"
        @left="emit('left', 'gather.within')"
      />
      <NumberField
        v-model="gather.most"
        label="At once when so many are there"
        unit=""
        :message="message('most')"
        @left="emit('left', 'gather.most')"
      />
    </template>
    <p class="quiet whole">
      Each run still makes its own records; a database or a file takes many of them at once more easily than one by one.
    </p>
  </div>
</template>
