<script setup lang="ts">
import { allowFolders, showSite } from '#shared/api/site'

/** Below which folders of the engine's machine files may be read and written. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const text = ref('')
const allowed = shallowRef<readonly string[]>([])
const refused = shallowRef<Refused | null>(null)

const show = (folders: readonly string[]) => {
  allowed.value = folders
  text.value = folders.join('\n')
}
try {
  show((await callApi(showSite)).folders)
} catch (error) {
  refused.value = asRefused(error)
}
const folders = computed(() =>
  text.value
    .split('\n')
    .map((folder) => folder.trim())
    .filter(Boolean),
)
const isChanged = computed(() => folders.value.join('\n') !== allowed.value.join('\n'))
const given = computed(() => (live.status?.fileRoots ?? []).filter((root) => !allowed.value.includes(root)))
const save = async () => {
  try {
    show((await callApi(allowFolders, { body: { folders: folders.value } })).folders)
    refused.value = null
    notices.tell('Folders for files allowed.')
  } catch (error) {
    refused.value = asRefused(error)
  }
}
</script>

<template>
  <form class="sheet part" @submit.prevent="save">
    <h2 class="sheet-title">Folders for files</h2>
    <p class="told">Links to files stay below these folders of the engine’s machine.</p>
    <p v-for="root in given" :key="root" class="mono root">{{ root }} <span class="quiet">as it was started</span></p>
    <label class="label" for="folders">Besides, one in each line</label>
    <textarea
      id="folders"
      v-model="text"
      class="mono lines"
      rows="3"
      spellcheck="false"
      placeholder="/srv/exchange"
      :readonly="!session.can('administer')"
    />
    <p v-for="field in refused?.fields ?? []" :key="field.message" class="is-broken">{{ field.message }}</p>
    <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
    <v-btn type="submit" :disabled="!isChanged || !session.can('administer')">Allow these</v-btn>
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.told {
  margin: 4px 0 8px;
}
.root {
  margin: 0 0 4px;
  overflow-wrap: anywhere;
}
.label {
  display: block;
  font-size: 12px;
  color: var(--quiet);
}
.lines {
  width: 100%;
  margin: 2px 0 10px;
  padding: 6px 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--surface);
  color: inherit;
  resize: vertical;
}
</style>
