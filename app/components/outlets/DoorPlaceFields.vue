<script setup lang="ts">
import type { DoorPlace } from '#shared/outlets/doors'

/** Where a door of any outlet listens, and what clients are told to dial. */
const door = defineModel<DoorPlace>({ required: true })
const props = defineProps<{ path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const live = useLive()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
const interfaces = computed(() => {
  const own = (live.status?.interfaces ?? []).map(({ address, name }) => ({ value: address, title: address, subtitle: name }))
  const usual = [
    { value: '127.0.0.1', title: '127.0.0.1', subtitle: 'this machine only' },
    { value: '0.0.0.0', title: '0.0.0.0', subtitle: 'every interface of this machine' },
  ]
  const known = [...usual, ...own]
  return known.some(({ value }) => value === door.value.interface)
    ? known
    : [...known, { value: door.value.interface, title: door.value.interface, subtitle: 'not there now' }]
})
</script>

<template>
  <div class="grid">
    <ChoiceField v-model="door.interface" label="Interface" :choices="interfaces" mono :message="message('interface')" />
    <NumberField v-model="door.port" label="Port" :message="message('port')" @left="left('port')" />
    <TextField
      v-model="door.giveOut"
      class="wide"
      label="Host to give out"
      mono
      placeholder="as the interface"
      :message="message('giveOut')"
      @left="left('giveOut')"
    />
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 100px;
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
