<script setup lang="ts">
import { madeText } from '#core/equipment/words'
import type { PropertySource } from '#shared/sources/property'
import type { Drawn } from '#shared/sources/source'

/** A property of equipment: what it is, its class says. */
const draft = defineModel<Drawn<PropertySource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()
</script>

<template>
  <div class="wide">
    <span class="label">Made by</span>
    <p>
      <NuxtLink :to="`/equipment?at=${draft.source.equipmentId}`">equipment</NuxtLink>:
      <span class="mono">{{ draft.source.property }}</span> — {{ madeText(draft.source.made) }}
    </p>
    <p class="hint quiet">Its path, type and unit follow the equipment and its class.</p>
  </div>
  <slot name="type" />
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
p {
  margin: 4px 0 0;
}
</style>
