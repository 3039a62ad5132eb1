<script setup lang="ts">
/** Asks before typed things are lost. */
const leave = defineModel<(() => void) | null>({ required: true })
const go = () => {
  leave.value?.()
  leave.value = null
}
</script>

<template>
  <v-dialog :model-value="leave !== null" max-width="420" @update:model-value="leave = null">
    <div class="sheet ask">
      <h2 class="sheet-title">Leave without saving?</h2>
      <p>What was typed here would be lost.</p>
      <div class="buttons">
        <v-btn variant="flat" @click="leave = null">Stay</v-btn>
        <v-btn @click="go">Discard and leave</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.ask {
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
p {
  margin: 6px 0 0;
}
</style>
