<script setup lang="ts">
/** Asks before typed things are lost. */
const leave = defineModel<(() => void) | null>({ required: true })
const go = () => {
  leave.value?.()
  leave.value = null
}
</script>

<template>
  <AskDialog
    :model-value="leave !== null"
    title="Leave without saving?"
    yes="Discard and leave"
    no="Stay"
    @update:model-value="leave = null"
    @yes="go"
  >
    <p>What was typed here would be lost.</p>
  </AskDialog>
</template>
