<script setup lang="ts">
import { modeText, policies } from '#core/opcua/settings'
import { isOpenToOthers } from '#shared/outlets/doors'
import type { Door } from '#shared/outlets/opcuaServer'

/** One door: where it listens, how it is secured, and who may come in by it. */
const door = defineModel<Door>({ required: true })
const props = defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const path = computed(() => `settings.doors.${props.number - 1}`)
const message = (field: string) => props.messageFor(`${path.value}.${field}`)
const policyChoices = policies.map((policy) => ({
  value: policy,
  title: policy,
  subtitle: policy === 'None' ? 'neither signed nor encrypted' : '',
}))
const modeChoices = (['SignAndEncrypt', 'Sign'] as const).map((mode) => ({ value: mode, title: modeText[mode] }))
const secures = computed(() => door.value.policies.some((policy) => policy !== 'None'))
const warns = computed(() => isOpenToOthers(door.value) && door.value.policies.includes('None'))
</script>

<template>
  <fieldset class="framed">
    <legend>Door {{ number }}</legend>
    <div class="grid">
      <DoorPlaceFields v-model="door" :path="path" :message-for="messageFor" @left="$emit('left', $event)" />
      <div>
        <label class="label">Policies</label>
        <v-select
          v-model="door.policies"
          :items="policyChoices"
          item-props
          multiple
          aria-label="Policies"
          :error-messages="message('policies')"
        />
      </div>
      <div v-if="secures">
        <label class="label">Modes</label>
        <v-select v-model="door.modes" :items="modeChoices" multiple aria-label="Modes" :error-messages="message('modes')" />
      </div>
    </div>
    <div class="who">
      <v-checkbox v-model="door.anonymous" label="Anonymous" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and password" density="compact" hide-details />
      <v-checkbox v-model="door.certificates" label="By certificate" density="compact" hide-details />
      <v-checkbox v-model="door.on" label="Open" density="compact" hide-details />
      <v-btn v-if="!only" height="26" @click="$emit('drop')">Drop</v-btn>
    </div>
    <p v-if="message('names')" class="is-broken">{{ message('names') }}</p>
    <p v-if="warns" class="is-late">Others can reach this door, and nothing on it is encrypted.</p>
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
