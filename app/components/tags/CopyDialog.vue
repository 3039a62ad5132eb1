<script setup lang="ts">
import { counted } from '#core/text/counted'
import { pathProblem } from '#core/tags/path'
import { patternOf } from '#core/tags/series'
import { copyTags } from '#shared/api/tags'

/** A folder once more, under another path, on another link or unit where that is chosen. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ from: string }>()
const emit = defineEmits<{ copied: [to: string] }>()
const notices = useNotices()
const lists = useLists()
const to = ref(patternOf(props.from).replace(/\{(\d+)\}/, (_, digits: string) => String(Number(digits) + 1).padStart(digits.length, '0')))
const linkId = ref<number | null>(null)
const unit = ref('')
const refused = shallowRef<Refused | null>(null)
const busy = ref(false)
const problem = computed(() => (to.value === props.from ? 'The copy needs another path.' : (pathProblem(to.value) ?? '')))
const fieldMessage = (path: string) => refused.value?.fields.find((field) => field.path === path)?.message ?? ''
const others = computed(() => refused.value?.fields.filter(({ path }) => !['to', 'unit'].includes(path)) ?? [])
watch([to, linkId, unit], () => (refused.value = null))
const links = computed(() => [
  { value: null as number | null, title: 'each on its own, as now' },
  ...lists.pointLinks.map(({ id, name }) => ({ value: id as number | null, title: name })),
])

const copy = async () => {
  busy.value = true
  try {
    const body = { from: props.from, to: to.value, linkId: linkId.value, unit: unit.value.trim() || null }
    const { tags, revision } = await callApi(copyTags, { body })
    notices.tell(`${counted(tags, 'tag')} copied from ${props.from} to ${to.value}.`, revision)
    open.value = false
    emit('copied', to.value)
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="480" aria-label="Copy a folder">
    <form class="sheet dialog" @submit.prevent="copy">
      <h2 class="sheet-title">Copy {{ from }}</h2>
      <TextField v-model="to" label="Path of the copy" mono :message="problem || fieldMessage('to')" autofocus />
      <ChoiceField v-model="linkId" label="Reads through" :choices="links" />
      <TextField v-model="unit" label="Unit" mono placeholder="as now" :message="fieldMessage('unit')" />
      <p class="quiet">Formulas in it that read tags of the folder read their copies.</p>
      <p v-for="one in others.slice(0, 5)" :key="one.path" class="is-broken">{{ one.path }} {{ one.message }}</p>
      <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
      <div class="buttons">
        <BusyButton type="submit" variant="flat" :busy="busy" :disabled="problem !== ''">Copy</BusyButton>
        <v-btn @click="open = false">Leave it</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.dialog {
  display: grid;
  gap: 10px;
  padding: 18px 20px;
}
p {
  margin: 0;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
