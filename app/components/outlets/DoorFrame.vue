<script setup lang="ts">
import type { DoorPlace } from '#shared/outlets/doors'

/** One door of any outlet: where it listens; how it is protected and who may come in by it is said by its kind. */
const door = defineModel<DoorPlace & { on: boolean }>({ required: true })
const props = defineProps<{ number: number; only: boolean; warning: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.doors.${props.number - 1}`)
const problem = computed(() => props.messageFor(`${path.value}.names`))
</script>

<template>
  <fieldset class="framed">
    <legend>Door {{ number }}</legend>
    <div class="grid">
      <DoorPlaceFields v-model="door" :path="path" :message-for="messageFor" @left="$emit('left', $event)" />
      <slot />
    </div>
    <div class="who">
      <slot name="who" />
      <v-checkbox v-model="door.on" label="Open" density="compact" hide-details />
      <v-btn v-if="!only" height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
    <p v-if="problem" class="is-broken">{{ problem }}</p>
    <p v-if="warning" class="is-late">{{ warning }}</p>
  </fieldset>
</template>

<style scoped>
.grid {
  display: grid;
  gap: 10px;
}
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-top: 4px;
}
p {
  margin: 4px 0 0;
}
</style>
