<script setup lang="ts">
import type { NodeDoor } from '#shared/nodes'

/** Where nodes come in: at this machine, whose interfaces are known, or at another one. */
const door = defineModel<NodeDoor>({ required: true })
const props = defineProps<{ messageFor(path: string): string; path?: string; isElsewhere?: boolean }>()
const emit = defineEmits<{ left: [path: string] }>()
const live = useLive()

const own = computed(() => (live.status?.interfaces ?? []).map(({ address }) => address).filter((address) => !address.startsWith('127.')))
const at = (field: keyof NodeDoor) => `${props.path ?? ''}${field}`
const message = (field: keyof NodeDoor) => props.messageFor(at(field))
const say = (part: Partial<NodeDoor>) => (door.value = { ...door.value, ...part })
const left = (field: keyof NodeDoor) => emit('left', at(field))
</script>

<template>
  <SuggestField
    :model-value="door.host"
    :label="isElsewhere ? 'The others reach it at' : 'Nodes reach us at'"
    :among="isElsewhere ? [] : own"
    :placeholder="isElsewhere ? 'harbour-b.example' : 'port.example'"
    :message="message('host')"
    @update:model-value="say({ host: $event })"
    @left="left('host')"
  />
  <NumberField
    :model-value="door.port"
    label="Port"
    :message="message('port')"
    @update:model-value="say({ port: $event ?? NaN })"
    @left="left('port')"
  />
  <TextField
    v-if="isElsewhere"
    :model-value="door.interface"
    label="Interface of that machine"
    mono
    :message="message('interface')"
    @update:model-value="say({ interface: $event })"
    @left="left('interface')"
  />
  <InterfaceField v-else :model-value="door.interface" :message="message('interface')" @update:model-value="say({ interface: $event })" />
  <NumberField
    :model-value="door.outsidePort"
    label="Port from outside, if another"
    :message="message('outsidePort')"
    @update:model-value="say({ outsidePort: $event })"
    @left="left('outsidePort')"
  />
</template>
