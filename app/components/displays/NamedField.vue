<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { listTags } from '#shared/api/tags'

/** What a pane shows: a property of the equipment by its name, or a tag by its path; found by any part of it. */
const named = defineModel<string>({ required: true })
const props = defineProps<{ label: string; className: string; message?: string }>()
const emit = defineEmits<{ left: [] }>()
const equipment = useEquipment()
const found = ref<{ value: string; title: string }[]>([])
let turn = 0

const properties = computed(() =>
  props.className === ''
    ? []
    : equipment.model.propertiesOf(props.className).map(({ name, title }) => ({ value: name, title: title || name })),
)
const look = async (words: string) => {
  const mine = ++turn
  const { items } = await callApi(listTags, { query: { find: words || undefined, limit: 20 } }).catch(() => ({ items: [] }))
  if (mine === turn) found.value = items.map(({ path }) => ({ value: path, title: '' }))
}
const lookSoon = useDebounceFn((words: string) => look(words), 200)
const type = (words: string | null) => {
  named.value = (words ?? '').trim()
  void lookSoon(named.value)
}
const id = useId()
</script>

<template>
  <div>
    <label class="label" :for="id">{{ label }}</label>
    <v-text-field
      :id="id"
      :model-value="named"
      class="mono"
      :list="`${id}-found`"
      :placeholder="className ? (properties[0]?.value ?? 'a property') : 'berth/1/shore/active_power'"
      :error-messages="message ?? ''"
      spellcheck="false"
      autocomplete="off"
      @focus="look(named)"
      @update:model-value="type"
      @blur="emit('left')"
    />
    <datalist :id="`${id}-found`">
      <option v-for="one in [...properties, ...found]" :key="one.value" :value="one.value">{{ one.title }}</option>
    </datalist>
  </div>
</template>
