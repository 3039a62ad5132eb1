<script setup lang="ts">
import { removeClass } from '#shared/api/equipment'
import type { EquipmentClass } from '#shared/equipment/equipment'

const route = useRoute()
const store = useEquipment()
await store.whenLoaded()
const opened = store.classes.find(({ id }) => id === Number(route.params.id)) ?? null
const draft = opened && (({ id: _id, revision: _revision, ...rest }: EquipmentClass) => rest)(opened)
const { asking, remove } = useRemoval('Class', '/equipment/classes', () => callApi(removeClass, { params: { id: opened!.id } }))
const saved = () => void store.refresh()
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/equipment/classes" class="trail">Classes ›</NuxtLink>
      <h1>{{ opened?.name ?? 'It is not there' }}</h1>
      <span class="fill" />
      <Allowed v-if="opened" role="configure"><v-btn color="break" @click="asking = true">Remove …</v-btn></Allowed>
    </div>
    <ClassSheet v-if="opened && draft" :initial="draft" :class="opened" @saved="saved" />
    <EmptyState
      v-else
      title="This class is not there"
      text="It was removed, or never was. Site has what was changed last, and takes it back."
    >
      <v-btn to="/equipment/classes">All classes</v-btn>
    </EmptyState>
    <AskDialog v-model="asking" :title="`Remove class “${opened?.name}”?`" yes="Remove" no="Keep" grave @yes="remove(opened!.name)">
      <p>A class that equipment has, or that another is made from, stays.</p>
    </AskDialog>
  </div>
</template>
