<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { listTags } from '#shared/api/tags'

/** The path of a tag: typed, or found by any part of it. */
const path = defineModel<string>({ required: true })
defineProps<{ label: string; message?: string; placeholder?: string }>()
const emit = defineEmits<{ left: [] }>()
const found = ref<string[]>([])
let turn = 0

const look = async (words: string) => {
  const mine = ++turn
  const { items } = await callApi(listTags, { query: { find: words || undefined, limit: 20 } }).catch(() => ({ items: [] }))
  if (mine === turn) found.value = items.map((tag) => tag.path)
}
const lookSoon = useDebounceFn((words: string) => look(words), 200)
const type = (words: string | null) => {
  path.value = (words ?? '').trim()
  void lookSoon(path.value)
}
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-combobox
      :id="id"
      :model-value="path"
      :search="path"
      :items="found"
      no-filter
      hide-no-data
      class="mono"
      :placeholder="placeholder ?? 'berth/1/shore/active_power'"
      :error-messages="message ?? ''"
      @focus="look(path)"
      @update:search="type"
      @update:model-value="type($event)"
      @blur="emit('left')"
    />
  </div>
</template>
