<script setup lang="ts">
import { counted } from '#core/text/counted'
import { pathProblem } from '#core/tags/path'
import { moveTags } from '#shared/api/tags'

/** Calls a folder otherwise, or puts it somewhere else, with everything that names it. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ from: string }>()
const emit = defineEmits<{ moved: [to: string] }>()
const notices = useNotices()
const to = ref(props.from)
const refused = shallowRef<Refused | null>(null)
const busy = ref(false)
const problem = computed(() => {
  if (to.value === props.from) return ''
  return pathProblem(to.value) ?? (`${to.value}/`.startsWith(`${props.from}/`) ? 'A folder does not go into itself.' : '')
})
const message = computed(() => problem.value || (refused.value?.fields[0]?.message ?? ''))
watch(to, () => (refused.value = null))

const move = async () => {
  busy.value = true
  try {
    const { tags, others, readers, revision } = await callApi(moveTags, { body: { from: props.from, to: to.value } })
    const named = others > 0 ? `, and ${counted(others, 'outlet')} that named it` : ''
    const read = readers > 0 ? `, and ${counted(readers, 'tag')} that read from it` : ''
    notices.tell(`${counted(tags, 'tag')} moved from ${props.from} to ${to.value}${named}${read}.`, revision)
    open.value = false
    emit('moved', to.value)
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="480" aria-label="Rename or move a folder">
    <form class="sheet dialog" @submit.prevent="move">
      <h2 class="sheet-title">Rename or move {{ from }}</h2>
      <TextField v-model="to" label="New path of the folder" mono :message="message" autofocus />
      <p class="quiet">Rights by folder and short names of outlets follow. Clients that ask by the old paths no longer find them.</p>
      <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
      <div class="buttons">
        <BusyButton type="submit" variant="flat" :busy="busy" :disabled="to === from || problem !== ''">Move</BusyButton>
        <v-btn @click="open = false">Leave it</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.dialog {
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 12px;
}
</style>
