<script setup lang="ts">
import { changeLink, checkLink, makeLink } from '#shared/api/links'
import { useDebounceFn } from '@vueuse/core'
import type { LinkKind } from '#core/links/registry'
import { hasPoints, protocolOf } from '#core/links/registry'
import { linkContract, type Link, type LinkDraft } from '#shared/links/link'
import { linkForms } from '~/links/registry'

/** One sheet per link: settings left, its check right. Used for a new one and for a saved one. */
const props = defineProps<{ kind: LinkKind; initial: LinkDraft; link: Link | null }>()
const emit = defineEmits<{ saved: [link: Link] }>()

const form = useDraft<LinkDraft>(props.initial, linkContract)
const { draft } = form
const check = useCheck(checkLink)
const protocol = protocolOf(props.kind)
const places = useNodeChoices()
const suggestion = computed(() => linkForms[props.kind].suggestName(draft.value.settings))
const nodeName = computed(() => (draft.value.nodeId === null ? '' : places.value.find(({ value }) => value === draft.value.nodeId)?.title))
const hasProblem = (prefix: string) => form.triedToSave.value && [...form.problems.value.keys()].some((path) => path.startsWith(prefix))

const settingsText = computed(() => JSON.stringify([draft.value.settings, draft.value.nodeId]))
const settingsValid = computed(() => linkContract.safeParse({ ...draft.value, name: 'any' }).success)
const checkNow = () => {
  const parsed = linkContract.safeParse({ ...draft.value, name: draft.value.name || 'new' })
  if (parsed.success) void check.run({ body: { link: parsed.data, linkId: props.link?.id ?? null } })
}
const checkSoon = useDebounceFn(checkNow, 700)
watch(settingsText, () => (settingsValid.value ? void checkSoon() : check.stop()))
onMounted(() => props.link && settingsValid.value && checkNow())

const saving = useSaving<LinkDraft, Link>({
  form,
  opened: props.link,
  send: (link, revision) =>
    props.link ? callApi(changeLink, { params: { id: props.link.id }, body: { revision, link } }) : callApi(makeLink, { body: link }),
  draftOf: ({ id: _id, revision: _revision, ...rest }) => rest as LinkDraft,
  tell: (saved) => `Link “${saved.name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const { busy, refused, theirs, question: leaving } = saving
// what was decided beside the sheet changed it, too; what somebody typed meanwhile stays
watch(
  () => props.link?.revision,
  () => props.link && !form.isDirty.value && saving.take(props.link),
)
const question = computed(() => check.failed.value?.certificate ?? null)
const save = () => {
  if (draft.value.name.trim() === '' && suggestion.value) draft.value.name = suggestion.value
  return saving.save()
}

const onKey = (event: KeyboardEvent) => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') {
    event.preventDefault()
    void save()
  }
}
</script>

<template>
  <form class="sheet-columns" novalidate @submit.prevent="save" @keydown="onKey">
    <section class="sheet settings">
      <div class="top">
        <TextField
          v-model="draft.name"
          label="Name"
          :placeholder="suggestion || 'Berth meters'"
          :message="suggestion ? '' : form.messageFor('name')"
          :autofocus="!link"
          @left="form.touch('name')"
        />
        <ChoiceField
          v-if="places.length > 1"
          v-model="draft.nodeId"
          label="Runs on"
          :choices="places"
          :message="form.messageFor('nodeId')"
        />
        <v-switch v-model="draft.on" label="Switched on" class="on" />
      </div>
      <component
        :is="linkForms[kind].component"
        v-model="draft.settings"
        :message-for="form.messageFor"
        :has-problem="hasProblem"
        :link-id="link?.id ?? null"
        @left="form.touch"
      />
      <OddFields
        v-if="hasPoints(kind)"
        v-model="draft.odd"
        kinds="all"
        :link="null"
        of-link
        :message-for="form.messageFor"
        @left="form.touch"
      />
      <SheetFoot
        :title="link ? 'Save changes' : 'Save link'"
        :busy="busy"
        :is-new="link === null"
        :is-dirty="form.isDirty.value"
        :problems="form.triedToSave.value ? form.problems.value.size : 0"
        @back="saving.take(link!)"
      />
    </section>
    <div class="beside">
      <slot name="first" />
      <SaveNote :refused="refused" :theirs="theirs" class="gap" @show="saving.take" @overwrite="saving.saveOverTheirs" />
      <CheckPanel
        :steps="check.steps.value"
        :running="check.running.value"
        :failed="check.failed.value"
        :verdict="check.verdict.value"
        :can-run="settingsValid"
        :asks="question !== null"
        :note="`${protocol.title}, as it is typed here${nodeName ? `, from ${nodeName}` : ''}`"
        @run="checkNow"
        @stop="check.stop"
      />
      <TrustQuestion
        v-if="question"
        :key="question.facts.fingerprint"
        class="below"
        title="Do you know this server?"
        :certificate="question"
        :refused="check.failed.value?.fault?.code === 'certificate.refused'"
        @decided="checkNow"
      />
      <FaultNote v-if="check.problem.value" :fault="check.problem.value.why" class="gap" />
      <LoadPanel
        v-if="link && hasPoints(kind) && !protocolOf(kind).capabilities.messages"
        :link-id="link.id"
        :link="draft"
        title="What it is asked for"
      />
      <slot name="beside" />
    </div>
    <LeaveDialog v-model="leaving" />
  </form>
</template>

<style scoped>
.settings {
  padding: 16px 18px;
}
.top {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 20px;
  margin-bottom: 12px;
}
.on {
  padding-top: 20px;
}
.beside > :deep(.gap) {
  margin-bottom: 12px;
}
.beside > :deep(.below) {
  margin-top: 12px;
}
</style>
