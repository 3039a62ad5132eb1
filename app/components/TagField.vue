<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { listTags } from '#shared/api/tags'

/** The path of a tag: typed, or found by any part of it. */
const path = defineModel<string>({ required: true })
defineProps<{
  label: string
  message?: string
  placeholder?: string
  /** What it may be besides: names that mean something here. */
  among?: readonly { value: string; title: string }[]
}>()
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
    <v-text-field
      :id="id"
      :model-value="path"
      class="mono"
      :list="`${id}-found`"
      :placeholder="placeholder ?? 'berth/1/shore/active_power'"
      :error-messages="message ?? ''"
      spellcheck="false"
      autocomplete="off"
      @focus="look(path)"
      @update:model-value="type"
      @blur="emit('left')"
    />
    <datalist :id="`${id}-found`">
      <option v-for="one in among ?? []" :key="one.value" :value="one.value">{{ one.title }}</option>
      <option v-for="one in found" :key="one" :value="one" />
    </datalist>
  </div>
</template>
