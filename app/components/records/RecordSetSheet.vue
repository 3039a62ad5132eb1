<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { setProblems } from '#core/records/problems'
import { recordSetContract, type RecordSetDraft } from '#core/records/settings'
import { changeRecordSet, makeRecordSet, previewRecordSet } from '#shared/api/recordSets'
import type { RecordSet, RecordSetPreview } from '#shared/records/recordSet'
import { folderName } from '~/records/blank'

/** A record set: a sentence on top, real rows below it, and the tags that come of them. */
const props = defineProps<{ initial: RecordSetDraft; recordSet: RecordSet | null; renaming?: boolean }>()
const emit = defineEmits<{ saved: [set: RecordSet] }>()
const lists = useLists()
const live = useLive()
const session = useSession()

const around = computed(() => ({
  link: (id: number) => lists.links.find((link) => link.id === id),
  others: lists.recordSets.filter(({ id }) => id !== props.recordSet?.id),
}))
const form = useDraft<RecordSetDraft>(props.initial, recordSetContract, (draft) => setProblems(draft, around.value))
const { draft } = form
const wrong = (prefix: string) =>
  form.triedToSave.value && [...form.problems.value.keys()].some((path) => path === prefix || path.startsWith(`${prefix}.`))

/** Its folder goes by its name until somebody says otherwise. */
const proposed = ref('')
const linkName = computed(() => folderName(lists.linkName(draft.value.linkId)))
watch(
  () => [draft.value.name, draft.value.linkId],
  () => {
    if (props.recordSet || draft.value.folder !== proposed.value) return
    const name = folderName(draft.value.name)
    draft.value.folder = proposed.value = name && `${linkName.value}/${name}`
  },
)

const preview = ref<RecordSetPreview | null>(null)
const looking = ref(false)
const refusedLook = ref<Refused | null>(null)
/** Sound but for its name and folder, which change nothing of its rows. */
const lookedAt = computed(() => {
  const { name, folder } = draft.value
  const parsed = recordSetContract.safeParse({ ...draft.value, name: name || 'new', folder: folder || 'new' })
  return parsed.success && setProblems(parsed.data, { ...around.value, others: [] }).length === 0 ? parsed.data : null
})
let turn = 0
const look = async (run: Record<string, string> | null = null) => {
  const set = lookedAt.value
  if (!set || !session.can('configure')) return
  const mine = ++turn
  looking.value = true
  refusedLook.value = null
  try {
    const found = await callApi(previewRecordSet, { body: { recordSet: set, setId: props.recordSet?.id ?? null, run } })
    if (mine === turn) preview.value = found
  } catch (error) {
    if (mine === turn) refusedLook.value = asRefused(error)
  } finally {
    if (mine === turn) looking.value = false
  }
}
const lookSoon = useDebounceFn(() => look(), 400)
watch(lookedAt, (now, before) => JSON.stringify(now) !== JSON.stringify(before) && void lookSoon(), { immediate: true })
/** What the engine did with it in the meantime: another row, or other values. */
const status = computed(() => live.status?.recordSets.find(({ id }) => id === props.recordSet?.id) ?? null)
const isCall = computed(() => draft.value.how.kind === 'procedure')
watch(
  () => [status.value?.changes, status.value?.key, status.value?.tags].join(),
  () => !form.isDirty.value && void lookSoon(),
)
const fault = computed(() => preview.value?.fault ?? refusedLook.value?.why ?? null)

const saving = useSaving<RecordSetDraft, RecordSet>({
  form,
  opened: props.recordSet,
  send: (recordSet, revision) =>
    props.recordSet
      ? callApi(changeRecordSet, { params: { id: props.recordSet.id }, body: { revision, recordSet } })
      : callApi(makeRecordSet, { body: recordSet }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest,
  tell: (saved) => `Record set “${saved.name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const { busy, refused, theirs, question } = saving
const problemCount = computed(() => (form.triedToSave.value ? form.problems.value.size : 0))
</script>

<template>
  <form novalidate @submit.prevent="saving.save">
    <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="saving.take" @overwrite="saving.saveOverTheirs" />
    <section class="sheet sentence" aria-label="What the record set does">
      <div v-if="recordSet === null || renaming" class="top">
        <TextField
          v-model="draft.name"
          label="Name"
          placeholder="Profile of the ship"
          :message="form.messageFor('name')"
          autofocus
          @left="form.touch('name')"
        />
        <v-switch v-if="recordSet === null" v-model="draft.on" label="Switched on" class="on" />
      </div>
      <SetSentence
        v-model="draft"
        :is-new="recordSet === null"
        :preview="preview"
        :wrong="wrong"
        :message-for="form.messageFor"
        @left="form.touch"
      />
    </section>
    <ProcedureTrial
      v-if="isCall && preview && (!preview.fault || preview.tags.length > 0)"
      :parameters="preview.parameters"
      :busy="looking"
      @run="look"
    />
    <FaultNote v-if="fault" :fault="fault" class="above" />
    <template v-if="preview && preview.tags.length > 0">
      <RowsNow v-if="preview.columns.length" :preview="preview" :is-cursor="draft.how.kind === 'cursor'" />
      <SetTags :preview="preview" :folder="draft.folder" :is-saved="recordSet !== null && !form.isDirty.value" />
    </template>
    <p v-else-if="!fault" class="quiet above">
      {{ lookedAt ? 'Looking at the rows …' : 'Its rows and tags stand here as soon as it says which.' }}
    </p>
    <div v-if="recordSet === null || form.isDirty.value" class="sheet bottom">
      <SheetFoot
        :title="recordSet ? 'Save changes' : 'Save record set'"
        :busy="busy"
        :is-new="recordSet === null"
        :is-dirty="form.isDirty.value"
        :problems="problemCount"
        @back="saving.take(recordSet!)"
      />
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.gap {
  margin-bottom: 12px;
}
.above {
  margin-top: 12px;
}
.sentence {
  padding: 14px 18px 16px;
}
.top {
  margin-bottom: 14px;
  display: grid;
  grid-template-columns: minmax(0, 420px) auto;
  gap: 20px;
}
.on {
  padding-top: 20px;
}
.bottom {
  padding: 14px 18px;
  margin-top: 16px;
}
.bottom :deep(.foot) {
  border-top: 0;
  margin-top: 0;
  padding-top: 0;
}
</style>
