<script setup lang="ts">
import { changeOutlet, makeOutlet } from '#shared/api/outlets'
import { outletContract, type Outlet, type OutletDraft } from '#shared/outlets/outlet'
import { outletFaceOf } from '~/outlets/registry'

/** The sheet of an outlet: name and switch, the settings of its kind, and saving. */
const props = defineProps<{ initial: OutletDraft; outlet: Outlet | null }>()
const emit = defineEmits<{ saved: [outlet: Outlet] }>()
const lists = useLists()
const face = outletFaceOf(props.initial.kind)
const form = useDraft<OutletDraft>(props.initial, outletContract, ({ settings }) => face.problems?.(settings, lists.links) ?? [])
const { draft } = form
const places = useNodeChoices()
const isPlaceable = computed(() => places.value.length > 1 && draft.value.kind !== 'cloud-platform')
const saving = useSaving<OutletDraft, Outlet>({
  form,
  opened: props.outlet,
  send: (outlet, revision) =>
    props.outlet
      ? callApi(changeOutlet, { params: { id: props.outlet.id }, body: { revision, outlet } })
      : callApi(makeOutlet, { body: outlet }),
  draftOf: ({ name, kind, on, nodeId, settings }) => ({ name, kind, on, nodeId, settings }),
  tell: (saved) => `Outlet “${saved.name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const { busy, refused, theirs, question } = saving
</script>

<template>
  <form class="settings" novalidate @submit.prevent="saving.save">
    <component
      :is="face.form"
      v-model="draft.settings"
      :message-for="form.messageFor"
      :problems="form.problems.value"
      :tried-to-save="form.triedToSave.value"
      @left="form.touch"
    >
      <template #head>
        <TextField v-model="draft.name" label="Name" :message="form.messageFor('name')" @left="form.touch('name')" />
        <ChoiceField v-if="isPlaceable" v-model="draft.nodeId" label="Runs on" :choices="places" :message="form.messageFor('nodeId')" />
        <v-switch v-model="draft.on" label="Open" />
      </template>
      <template #foot>
        <SaveNote :refused="refused" :theirs="theirs" @show="saving.take" @overwrite="saving.saveOverTheirs" />
        <SheetFoot
          :title="outlet ? 'Save changes' : 'Open the outlet'"
          :busy="busy"
          :is-new="outlet === null"
          :is-dirty="form.isDirty.value"
          :problems="form.triedToSave.value ? form.problems.value.size : 0"
          @back="saving.take(outlet!)"
        />
      </template>
    </component>
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 16px;
  align-items: start;
}
</style>
