<script setup lang="ts">
import type { TakeWishes } from '#shared/pairing'

/** What becomes here of the values that another copy gives. */
const wishes = defineModel<TakeWishes>({ required: true })
defineProps<{ message(path: string): string; theirs: string }>()
defineEmits<{ left: [path: string] }>()
const folders = useFolders()
</script>

<template>
  <template v-if="wishes.again === null">
    <TextField
      v-model="wishes.name"
      label="Name of the link here"
      :placeholder="theirs"
      :message="message('name')"
      @left="$emit('left', 'name')"
    />
    <SuggestField
      v-model="wishes.folder"
      label="Its tags stand in the folder"
      :among="folders"
      placeholder="one by that name"
      :message="message('folder')"
      @left="$emit('left', 'folder')"
    />
  </template>
</template>
