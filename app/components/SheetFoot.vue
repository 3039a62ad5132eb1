<script setup lang="ts">
/** The buttons under a sheet, and how many fields still stand in the way. */
defineProps<{ title: string; busy: boolean; isNew: boolean; isDirty: boolean; problems: number }>()
defineEmits<{ back: [] }>()
const session = useSession()
</script>

<template>
  <div v-if="!session.can('configure')" class="foot quiet">Your role, {{ session.who?.role }}, may look at this and not change it.</div>
  <div v-else class="foot">
    <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!isNew && !isDirty">{{ title }}</BusyButton>
    <v-btn v-if="!isNew && isDirty" @click="$emit('back')">Put back</v-btn>
    <slot />
    <span v-if="problems > 0" class="is-broken"
      >Nothing saved: {{ problems }} {{ problems === 1 ? 'field needs' : 'fields need' }} another value.</span
    >
  </div>
</template>

<style scoped>
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  border-top: 1px solid var(--line-soft);
  margin-top: 16px;
  padding-top: 14px;
}
</style>
