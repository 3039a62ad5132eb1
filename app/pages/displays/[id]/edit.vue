<script setup lang="ts">
import type { DisplayDraft } from '#core/displays/settings'
import type { Display } from '#shared/displays'

const route = useRoute()
const store = useDisplays()
const equipment = useEquipment()
await Promise.all([store.whenLoaded(), equipment.whenLoaded()])
const opened = store.displays.find(({ id }) => id === Number(route.params.id)) ?? null
const draft = opened && (({ id: _id, revision: _revision, ...rest }: Display): DisplayDraft => rest)(opened)
</script>

<template>
  <DisplayEditor v-if="opened && draft" :initial="draft" :display="opened" :for="String(route.query.for ?? '')" />
  <div v-else class="page">
    <EmptyState title="This display is not there" text="It was removed, or never was.">
      <v-btn to="/displays">All displays</v-btn>
    </EmptyState>
  </div>
</template>
