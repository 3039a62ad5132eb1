<script setup lang="ts">
import { modeText, policies } from '#core/opcua/settings'
import { isOpenToOthers } from '#shared/outlets/doors'
import type { Door } from '#shared/outlets/opcuaServer'

/** One door: where it listens, how it is secured, and who may come in by it. */
const door = defineModel<Door>({ required: true })
const props = defineProps<{ number: number; only: boolean; messageFor(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const message = (field: string) => props.messageFor(`settings.doors.${props.number - 1}.${field}`)
const policyChoices = policies.map((policy) => ({
  value: policy,
  title: policy,
  subtitle: policy === 'None' ? 'neither signed nor encrypted' : '',
}))
const modeChoices = (['SignAndEncrypt', 'Sign'] as const).map((mode) => ({ value: mode, title: modeText[mode] }))
const secures = computed(() => door.value.policies.some((policy) => policy !== 'None'))
const warning = computed(() =>
  isOpenToOthers(door.value) && door.value.policies.includes('None') ? 'Others can reach this door, and nothing on it is encrypted.' : '',
)
</script>

<template>
  <DoorFrame
    v-model="door"
    :number="number"
    :only="only"
    :warning="warning"
    :message-for="messageFor"
    @left="$emit('left', $event)"
    @drop="$emit('drop')"
  >
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
    <template #who>
      <v-checkbox v-model="door.anonymous" label="Anonymous" density="compact" hide-details />
      <v-checkbox v-model="door.names" label="By name and password" density="compact" hide-details />
      <v-checkbox v-model="door.certificates" label="By certificate" density="compact" hide-details />
    </template>
  </DoorFrame>
</template>
