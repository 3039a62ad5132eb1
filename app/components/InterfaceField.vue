<script setup lang="ts">
/** The interface of the engine’s machine at which something listens. */
const address = defineModel<string>({ required: true })
defineProps<{ message?: string }>()
const live = useLive()

const interfaces = computed(() => {
  const own = (live.status?.interfaces ?? []).map(({ address: value, name }) => ({ value, title: value, subtitle: name }))
  const usual = [
    { value: '127.0.0.1', title: '127.0.0.1', subtitle: 'this machine only' },
    { value: '0.0.0.0', title: '0.0.0.0', subtitle: 'every interface of this machine' },
  ]
  const known = [...usual, ...own]
  return known.some(({ value }) => value === address.value)
    ? known
    : [...known, { value: address.value, title: address.value, subtitle: 'not there now' }]
})
</script>

<template>
  <ChoiceField v-model="address" label="Interface" :choices="interfaces" mono :message="message ?? ''" />
</template>
