<script setup lang="ts" generic="S">
/** What came of saving, where it needs more than a message at a field. */
defineProps<{ refused: Refused | null; theirs: S | null }>()
defineEmits<{ show: [theirs: S]; overwrite: [] }>()
</script>

<template>
  <FaultNote v-if="refused && refused.why.code !== 'entry.invalid'" :fault="refused.why" :mild="theirs !== null">
    <template v-if="theirs">
      <v-btn variant="flat" @click="$emit('show', theirs)">Show theirs</v-btn>
      <v-btn @click="$emit('overwrite')">Save mine over it</v-btn>
    </template>
  </FaultNote>
</template>
