<script setup lang="ts">
import type { Equipment } from '#shared/equipment/equipment'
import { blankEquipment } from '~/equipment/blank'

const route = useRoute()
const store = useEquipment()
await store.whenLoaded()
const like = store.model.equipment.get(Number(route.query.like))
const initial = like
  ? { ...blankEquipment(), path: `${like.path} 2`, class: like.class, level: like.level, constants: { ...like.constants } }
  : blankEquipment(String(route.query.in ?? ''))
const saved = async (equipment: Equipment) => {
  await store.refresh()
  await navigateTo(`/equipment?at=${equipment.id}`)
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/equipment" class="trail">Equipment ›</NuxtLink>
      <h1>New equipment</h1>
      <span class="fill" />
      <v-btn to="/equipment">Discard</v-btn>
    </div>
    <EquipmentSheet :initial="initial" :equipment="null" @saved="saved" />
  </div>
</template>
