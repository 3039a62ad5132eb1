<script setup lang="ts">
/** Certificates of authorities by whose word the other side is believed. */
const authority = defineModel<string>({ required: true })
defineProps<{ message: string }>()
defineEmits<{ left: [] }>()
const id = useId()
</script>

<template>
  <div class="wide">
    <label class="label" :for="id">Certificates of its authority, in PEM</label>
    <v-textarea
      :id="id"
      v-model="authority"
      rows="4"
      class="mono"
      placeholder="empty: the authorities that this machine knows"
      :error-messages="message"
      @blur="$emit('left')"
    />
  </div>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
