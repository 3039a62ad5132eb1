<script setup lang="ts">
import { blankClass } from '~/equipment/blank'

const store = useEquipment()
await store.whenLoaded()
const saved = async () => {
  await store.refresh()
  await navigateTo('/equipment/classes')
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/equipment/classes" class="trail">Classes ›</NuxtLink>
      <h1>New class</h1>
      <span class="fill" />
      <v-btn to="/equipment/classes">Discard</v-btn>
    </div>
    <ClassSheet :initial="blankClass()" :class="null" @saved="saved" />
  </div>
</template>
