<script setup lang="ts">
import type { RecordSetDraft } from '#core/records/settings'

/** Where the tags of a set stand, how many they may be, and what null is. */
const draft = defineModel<RecordSetDraft>({ required: true })
defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const nulls = computed({
  get: () => draft.value.nulls ?? '',
  set: (text) => (draft.value.nulls = text === '' ? null : text),
})
const gone = [
  { value: 'keep' as const, title: 'stay, and say so' },
  { value: 'remove' as const, title: 'are removed' },
]
</script>

<template>
  <div class="fields">
    <TextField
      v-model="draft.folder"
      class="wide"
      label="Folder of its tags"
      mono
      placeholder="call_book/profile"
      :message="messageFor('folder')"
      @left="emit('left', 'folder')"
    />
    <TextField
      v-model="nulls"
      label="In place of null"
      mono
      hint="empty: such a value is bad, and says so"
      :message="messageFor('nulls')"
      @left="emit('left', 'nulls')"
    />
    <NumberField
      v-if="draft.how.kind === 'snapshot' || draft.how.kind === 'cursor'"
      v-model="draft.how.most"
      label="Rows at most"
      hint="more are refused as a whole"
      :message="messageFor('how.most')"
      @left="emit('left', 'how.most')"
    />
    <ChoiceField v-if="draft.how.kind === 'snapshot'" v-model="draft.how.gone" label="Tags of rows that are gone" :choices="gone" />
  </div>
</template>
