<script setup lang="ts">
import type { Equipment } from '#shared/equipment/equipment'

const route = useRoute()
const store = useEquipment()
await store.whenLoaded()
const equipment = computed(() => store.equipment.find(({ id }) => id === Number(route.params.id)) ?? null)
const opened = equipment.value
const draft = opened && (({ id: _id, revision: _revision, ...rest }: Equipment) => rest)(opened)
const saved = async ({ id }: Equipment) => {
  await store.refresh()
  await navigateTo(`/equipment?at=${id}`)
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="opened ? `/equipment?at=${opened.id}` : '/equipment'" class="trail">Equipment ›</NuxtLink>
      <h1>{{ opened?.path ?? 'It is not there' }}</h1>
    </div>
    <EquipmentSheet v-if="opened && draft" :initial="draft" :equipment="opened" @saved="saved" />
    <EmptyState
      v-else
      title="This equipment is not there"
      text="It was removed, or never was. Site has what was changed last, and takes it back."
    >
      <v-btn to="/equipment">All equipment</v-btn>
    </EmptyState>
  </div>
</template>
