<script setup lang="ts">
import { displayContract, type DisplayDraft } from '#core/displays/settings'

/** A new display, from nothing or like another one. */
const route = useRoute()
const store = useDisplays()
const equipment = useEquipment()
await Promise.all([store.whenLoaded(), equipment.whenLoaded()])
const like = store.displays.find(({ id }) => id === Number(route.query.like))
const blank: DisplayDraft = { ...displayContract.parse({ name: 'x', class: String(route.query.class ?? '') }), name: '' }
const initial: DisplayDraft = like
  ? { name: `${like.name}, another`, class: like.class, description: like.description, panes: like.panes }
  : blank
</script>

<template>
  <DisplayEditor :initial="initial" :display="null" for="" />
</template>
