<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { previewNotes } from '#shared/api/notes'
import type { TagNote } from '#shared/notes'
import { tagDraft, type TagDraft } from '#shared/tags'

/** What is to be said of a tag as it is typed, before it is saved. */
const props = defineProps<{ draft: TagDraft; id: number | null }>()
const notes = shallowRef<TagNote[]>([])
let turn = 0

const ask = async () => {
  const mine = ++turn
  const parsed = tagDraft.safeParse(props.draft)
  const found = parsed.success ? await callApi(previewNotes, { body: { tag: parsed.data, id: props.id } }).catch(() => []) : []
  if (mine === turn) notes.value = found
}
const askSoon = useDebounceFn(ask, 250)
watch(
  () => JSON.stringify(props.draft),
  () => void askSoon(),
)
onMounted(ask)
</script>

<template>
  <section v-if="notes.length > 0" class="sheet noted" aria-live="polite">
    <h2 class="sheet-title">Notes</h2>
    <NoteList :notes="notes" :tag-id="id" @changed="ask" />
  </section>
</template>

<style scoped>
.noted {
  padding: 14px 18px 8px;
  margin-bottom: 12px;
}
</style>
