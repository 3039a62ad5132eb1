<script setup lang="ts">
/** One question before something is lost or taken away. */
const open = defineModel<boolean>({ required: true })
defineProps<{ title: string; yes: string; no: string; grave?: boolean }>()
defineEmits<{ yes: [] }>()
</script>

<template>
  <v-dialog v-model="open" max-width="440" :aria-label="title">
    <div class="sheet ask">
      <h2 class="sheet-title">{{ title }}</h2>
      <slot />
      <div class="buttons">
        <v-btn variant="flat" :color="grave ? 'break' : 'primary'" @click="$emit('yes')">{{ yes }}</v-btn>
        <v-btn @click="open = false">{{ no }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.ask {
  padding: 18px 20px;
}
.ask :deep(p) {
  margin: 6px 0 0;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
</style>
