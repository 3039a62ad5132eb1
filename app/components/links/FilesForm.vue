<script setup lang="ts">
import type { FilesSettings } from '#core/files/settings'

/** A folder below one that was allowed on the engine's machine. */
const settings = defineModel<FilesSettings>({ required: true })
const props = defineProps<{ messageFor(path: string): string; hasProblem(prefix: string): boolean; linkId: number | null }>()
const emit = defineEmits<{ left: [path: string] }>()
const live = useLive()

const message = (path: string) => props.messageFor(`settings.${path}`)
const roots = computed(() => [
  { value: '', title: live.status?.fileRoots[0] ?? 'the first allowed folder' },
  ...(live.status?.fileRoots ?? []).slice(1).map((root) => ({ value: root, title: root })),
])
</script>

<template>
  <div class="fields">
    <ChoiceField
      v-model="settings.root"
      label="Below this folder of the engine’s machine"
      :choices="roots"
      mono
      :message="message('root')"
    />
    <TextField
      v-model="settings.folder"
      label="Folder"
      mono
      placeholder="meters/daily"
      hint="made where it is missing; empty: the folder itself"
      :message="message('folder')"
      @left="emit('left', 'settings.folder')"
    />
  </div>
  <p class="quiet">An administrator allows other folders on the page <NuxtLink to="/site">Site</NuxtLink>. No path leads out of them.</p>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
