<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { listSeries, makeRecording } from '#shared/api/history'
import { listTags } from '#shared/api/tags'
import type { RecordedSeries } from '#shared/history'

/** A further series for the picture: found by any part of its path among what is recorded, or a tag that is not recorded yet. */
defineProps<{ taken: readonly number[] }>()
const emit = defineEmits<{ add: [id: number] }>()
const notices = useNotices()
const words = ref('')
const found = shallowRef<RecordedSeries[]>([])
/** A tag of this path that nobody records. */
const unrecorded = shallowRef<{ id: number; path: string } | null>(null)
const message = ref('')
let turn = 0
const id = useId()

const look = async () => {
  const mine = ++turn
  const find = words.value || undefined
  const answer = await callApi(listSeries, { query: { find, limit: 30 } }).catch(() => ({ items: [] as RecordedSeries[] }))
  if (mine === turn) found.value = answer.items
}
const lookSoon = useDebounceFn(look, 200)
const type = (text: string | null) => {
  words.value = (text ?? '').trim()
  message.value = ''
  unrecorded.value = null
  const known = found.value.find(({ path }) => path === words.value)
  if (known) return take(known.id)
  void lookSoon()
}
const take = (series: number) => {
  emit('add', series)
  words.value = ''
  found.value = []
}
const enter = async () => {
  if (words.value === '') return
  await look()
  const exact = found.value.find(({ path }) => path === words.value) ?? (found.value.length === 1 ? found.value[0] : undefined)
  if (exact) return take(exact.id)
  if (found.value.length > 1) return void (message.value = `${found.value.length} series have that in their path; choose one.`)
  const { items } = await callApi(listTags, { query: { find: words.value, limit: 100 } })
  const tag = items.find(({ path }) => path === words.value) ?? (items.length === 1 ? items[0] : undefined)
  if (tag) unrecorded.value = { id: tag.id, path: tag.path }
  else message.value = 'Nothing of that path was recorded, and there is no such tag.'
}
const record = async () => {
  const { id: tag, path } = unrecorded.value!
  try {
    await callApi(makeRecording, { body: { pattern: path, how: { kind: 'change' } } })
    notices.tell(`“${path}” is recorded from now on.`)
    unrecorded.value = null
    take(tag)
  } catch (error) {
    message.value = asRefused(error).why.what
  }
}
</script>

<template>
  <form class="add" @submit.prevent="enter">
    <label class="visually-hidden" :for="id">Add a series</label>
    <v-text-field
      :id="id"
      :model-value="words"
      class="mono field"
      :list="`${id}-found`"
      placeholder="Add a series, as in berth/1/shore/active_power"
      :error-messages="message"
      spellcheck="false"
      autocomplete="off"
      @focus="look"
      @update:model-value="type"
    />
    <datalist :id="`${id}-found`">
      <option v-for="one in found.filter((series) => !taken.includes(series.id))" :key="one.id" :value="one.path" />
    </datalist>
    <v-btn type="submit">Add</v-btn>
    <span v-if="unrecorded" class="ask">
      <span class="mono">{{ unrecorded.path }}</span> is not recorded.
      <Allowed role="configure"><v-btn height="26" @click="record">Record every change</v-btn></Allowed>
    </span>
  </form>
</template>

<style scoped>
.add {
  display: flex;
  align-items: flex-start;
  gap: 8px;
}
.field {
  width: 440px;
}
.ask {
  align-self: center;
}
</style>
