<script setup lang="ts">
import type { GiveWishes } from '#shared/pairing'

/** What another copy gets of this site, and what it may do with it. */
const wishes = defineModel<GiveWishes>({ required: true })
defineProps<{ message(path: string): string; theirs: string }>()
defineEmits<{ left: [path: string] }>()
const folders = useFolders()
const rights = [
  { value: 'read', title: 'Read' },
  { value: 'write', title: 'Read and write', subtitle: 'where a tag itself may be written' },
] as const
</script>

<template>
  <TextField
    v-if="wishes.again === null"
    v-model="wishes.name"
    label="Name of the outlet here"
    :placeholder="theirs"
    :message="message('name')"
    @left="$emit('left', 'name')"
  />
  <SuggestField
    v-model="wishes.folder"
    label="It gets the folder"
    :among="folders"
    placeholder="the whole site"
    :message="message('folder')"
    @left="$emit('left', 'folder')"
  />
  <ChoiceField v-model="wishes.may" label="What it may do" :choices="rights" />
  <v-checkbox v-model="wishes.onRequest" label="It may ask for points of our links that no tag covers" density="compact" hide-details />
</template>
