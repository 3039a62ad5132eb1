<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import type { LinkKind } from '#core/links/registry'
import { protocolOf } from '#core/links/registry'
import { linkContract, type Link, type LinkDraft, type LinkSettings } from '#shared/links/link'
import { linkForms } from '~/links/registry'

/** One sheet per link: settings left, its check right. Used for a new one and for a saved one. */
const props = defineProps<{ kind: LinkKind; initial: LinkDraft; link: Link | null }>()
const emit = defineEmits<{ saved: [link: Link] }>()

const form = useDraft<LinkDraft>(props.initial, linkContract)
const { draft } = form
const check = useCheck()
const notices = useNotices()
const saving = ref(false)
const refused = ref<Refused | null>(null)
const revision = ref(props.link?.revision ?? 0)
const { question, letGo } = useLeaveGuard(() => form.isDirty.value)

const protocol = protocolOf(props.kind)
const suggestion = computed(() => linkForms[props.kind].suggestName(draft.value.settings))
const hasProblem = (prefix: string) => form.triedToSave.value && [...form.problems.value.keys()].some((path) => path.startsWith(prefix))
const theirs = computed(() => (refused.value?.why.code === 'entry.edited' ? (refused.value.more.current as Link) : null))

const settingsText = computed(() => JSON.stringify(draft.value.settings))
const settingsValid = computed(() => linkContract.safeParse({ ...draft.value, name: 'any' }).success)
const checkNow = () => {
  const parsed = linkContract.safeParse({ ...draft.value, name: draft.value.name || 'new' })
  if (parsed.success) void check.run(parsed.data)
}
const checkSoon = useDebounceFn(checkNow, 700)
watch(settingsText, () => (settingsValid.value ? void checkSoon() : check.stop()))
onMounted(() => props.link && settingsValid.value && checkNow())

const take = (saved: Link) => {
  form.reset({ name: saved.name, kind: saved.kind, on: saved.on, settings: saved.settings as LinkSettings })
  revision.value = saved.revision
  refused.value = null
}

const save = async () => {
  if (draft.value.name.trim() === '' && suggestion.value) draft.value.name = suggestion.value
  form.triedToSave.value = true
  refused.value = null
  if (!form.isValid.value) return
  saving.value = true
  try {
    const saved = props.link
      ? await callApi<Link>(`/links/${props.link.id}`, { method: 'PUT', body: { revision: revision.value, link: draft.value } })
      : await callApi<Link>('/links', { method: 'POST', body: draft.value })
    take(saved)
    notices.tell(`Link “${saved.name}” saved.`, saved.revision)
    letGo.value = true
    emit('saved', saved)
    await nextTick(() => (letGo.value = false))
  } catch (error) {
    refused.value = asRefused(error)
    form.fromServer.value = refused.value.fields
  } finally {
    saving.value = false
  }
}

const saveOverTheirs = () => {
  revision.value = theirs.value!.revision
  void save()
}
const onKey = (event: KeyboardEvent) => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') {
    event.preventDefault()
    void save()
  }
}
defineExpose({ take })
</script>

<template>
  <form class="columns" novalidate @submit.prevent="save" @keydown="onKey">
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
        <v-switch v-model="draft.on" label="Switched on" class="on" />
      </div>
      <component
        :is="linkForms[kind].component"
        v-model="draft.settings"
        :message-for="form.messageFor"
        :has-problem="hasProblem"
        @left="form.touch"
      />
      <div class="foot">
        <v-btn type="submit" variant="flat" :loading="saving" :disabled="link !== null && !form.isDirty.value">{{
          link ? 'Save changes' : 'Save link'
        }}</v-btn>
        <v-btn v-if="link && form.isDirty.value" @click="take(link)">Put back</v-btn>
        <span v-if="form.triedToSave.value && !form.isValid.value" class="is-broken"
          >Nothing saved: {{ form.problems.value.size }} {{ form.problems.value.size === 1 ? 'field needs' : 'fields need' }} another
          value.</span
        >
        <slot name="actions" />
      </div>
    </section>
    <div class="beside">
      <FaultNote v-if="refused && refused.why.code !== 'entry.invalid'" :fault="refused.why" :mild="!!theirs" class="gap">
        <template v-if="theirs">
          <v-btn variant="flat" @click="take(theirs)">Show theirs</v-btn>
          <v-btn @click="saveOverTheirs">Save mine over it</v-btn>
        </template>
      </FaultNote>
      <CheckPanel
        :steps="check.steps.value"
        :running="check.running.value"
        :failed="check.failed.value"
        :can-run="settingsValid"
        :note="`${protocol.title}, as it is typed here`"
        @run="checkNow"
        @stop="check.stop"
      />
      <FaultNote v-if="check.problem.value" :fault="check.problem.value.why" class="gap" />
      <slot name="beside" />
    </div>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 5fr);
  gap: 16px;
  align-items: start;
}
.settings {
  padding: 16px 18px;
}
.top {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 20px;
  margin-bottom: 12px;
}
.on {
  padding-top: 20px;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  border-top: 1px solid var(--line-soft);
  padding-top: 14px;
}
.beside > :deep(.gap) {
  margin-bottom: 12px;
}
</style>
