<script setup lang="ts">
import { listTags } from '#shared/api/tags'
import { severityOf } from '#core/tags/quality'
import { allFrames, wordsOf } from '#core/traffic/filter'
import type { Trigger, TriggerState } from '#core/traffic/trigger'
import { microText } from '#core/text/moment'

/** What frames are kept: all, or those around something that is waited for. */
defineProps<{ state: TriggerState | null }>()
const emit = defineEmits<{ arm: [trigger: Trigger | null]; caught: [at: number] }>()
const live = useLive()
const choices = [
  { value: 'refused', title: 'a refusal' },
  { value: 'trouble', title: 'anything refused or odd' },
  { value: 'words', title: 'a frame that says …' },
  { value: 'tag', title: 'a tag that turns bad' },
] as const
const what = ref<(typeof choices)[number]['value']>('refused')
const words = ref('')
const path = ref('')
const before = ref<number | null>(5)
const after = ref<number | null>(5)
const message = ref('')
const open = ref(false)
const seconds = (value: number | null) => (Number.isFinite(value) ? Math.max(0, Math.min(600, value!)) : 5) * 1000
/** The tag that is waited for. */
const watched = ref<number | null>(null)

const begin = async () => {
  message.value = ''
  if (what.value === 'words' && wordsOf(words.value).length === 0) return void (message.value = 'Type what the frame says.')
  if (what.value === 'tag' && !(await findTag())) return void (message.value = 'There is no tag of this path.')
  const filter = {
    refused: { ...allFrames, outcome: 'refused' as const },
    trouble: { ...allFrames, outcome: 'trouble' as const },
    words: { ...allFrames, words: wordsOf(words.value) },
    tag: null,
  }[what.value]
  emit('arm', { filter, beforeMs: seconds(before.value), afterMs: seconds(after.value) })
  open.value = false
}
const stop = () => {
  watched.value = null
  emit('arm', null)
  open.value = false
}
const findTag = async (): Promise<boolean> => {
  const { items } = await callApi(listTags, { query: { find: path.value, limit: 20 } }).catch(() => ({ items: [] }))
  watched.value = items.find((tag) => tag.path === path.value)?.id ?? null
  return watched.value !== null
}
const part = 'traffic trigger'
watch(watched, (id) => live.show(part, id === null ? [] : [id]))
onUnmounted(() => live.show(part, []))
const isBad = computed(() => {
  const value = watched.value === null ? undefined : live.values.get(watched.value)
  return value ? severityOf(value.quality) === 'bad' : null
})
watch(isBad, (now, then) => {
  if (now && then === false) emit('caught', Date.now() - live.clockAhead)
})
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: opener }">
      <v-btn v-bind="opener">{{
        state === null ? 'Everything' : state.is === 'waiting' ? 'Waiting …' : `Caught at ${microText(state.at)}`
      }}</v-btn>
    </template>
    <form class="sheet trigger" aria-label="What is kept" @submit.prevent="begin">
      <p>Keep only what passes around</p>
      <ChoiceField v-model="what" label="What is waited for" :choices="choices" />
      <TextField v-if="what === 'words'" v-model="words" label="It says" placeholder="unit 13, or exception" />
      <TagField v-if="what === 'tag'" v-model="path" label="Tag" />
      <div class="times">
        <NumberField v-model="before" label="Seconds before it" />
        <NumberField v-model="after" label="Seconds after it" />
      </div>
      <p v-if="message" class="is-broken" role="alert">{{ message }}</p>
      <div class="buttons">
        <v-btn variant="flat" type="submit">Wait for it</v-btn>
        <v-btn v-if="state" @click="stop">Keep everything</v-btn>
      </div>
    </form>
  </v-menu>
</template>

<style scoped>
.trigger {
  display: grid;
  gap: 10px;
  width: 340px;
  padding: 14px;
}
.trigger p {
  margin: 0;
}
.times {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
