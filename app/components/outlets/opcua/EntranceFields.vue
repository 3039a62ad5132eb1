<script setup lang="ts">
import { modeText, policies } from '#core/opcua/settings'
import type { Entrance } from '#shared/outlets/opcuaServer'

/** How a connection of an OPC UA server is secured. */
const entrance = defineModel<Entrance>({ required: true })
defineProps<{ message(field: string): string }>()

const policyChoices = policies.map((policy) => ({
  value: policy,
  title: policy,
  subtitle: policy === 'None' ? 'neither signed nor encrypted' : '',
}))
const modeChoices = (['SignAndEncrypt', 'Sign'] as const).map((mode) => ({ value: mode, title: modeText[mode] }))
const secures = computed(() => entrance.value.policies.some((policy) => policy !== 'None'))
</script>

<template>
  <div>
    <label class="label">Policies</label>
    <v-select
      v-model="entrance.policies"
      :items="policyChoices"
      item-props
      multiple
      aria-label="Policies"
      :error-messages="message('policies')"
    />
  </div>
  <div v-if="secures">
    <label class="label">Modes</label>
    <v-select v-model="entrance.modes" :items="modeChoices" multiple aria-label="Modes" :error-messages="message('modes')" />
  </div>
</template>
