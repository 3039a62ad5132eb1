<script setup lang="ts">
import { outletContract, type Outlet, type OutletDraft } from '#shared/outlets/outlet'

/** The outlet's settings: name, port, and what anonymous clients may do. */
const props = defineProps<{ initial: OutletDraft; outlet: Outlet | null }>()
const emit = defineEmits<{ saved: [outlet: Outlet] }>()
const form = useDraft<OutletDraft>(props.initial, outletContract)
const { draft } = form
const saving = useSaving<OutletDraft, Outlet>({
  form,
  opened: props.outlet,
  send: (outlet, revision) =>
    props.outlet
      ? callApi<Outlet>(`/outlets/${props.outlet.id}`, { method: 'PUT', body: { revision, outlet } })
      : callApi<Outlet>('/outlets', { method: 'POST', body: outlet }),
  draftOf: ({ name, kind, on, settings }) => ({ name, kind, on, settings }),
  tell: (saved) => `Outlet “${saved.name}” saved.`,
  after: (saved) => emit('saved', saved),
})
const { busy, refused, theirs, question } = saving
</script>

<template>
  <form class="sheet settings" novalidate @submit.prevent="saving.save">
    <h2 class="sheet-title">Settings</h2>
    <div class="grid">
      <TextField v-model="draft.name" label="Name" :message="form.messageFor('name')" @left="form.touch('name')" />
      <NumberField
        v-model="draft.settings.port"
        label="Port"
        :message="form.messageFor('settings.port')"
        @left="form.touch('settings.port')"
      />
    </div>
    <v-switch v-model="draft.on" label="Open" />
    <v-switch v-model="draft.settings.anonymousMayWrite" label="Anonymous clients may write tags that are mapped for writing" />
    <SaveNote :refused="refused" :theirs="theirs" @show="saving.take" @overwrite="saving.saveOverTheirs" />
    <SheetFoot
      :title="outlet ? 'Save changes' : 'Open the outlet'"
      :busy="busy"
      :is-new="outlet === null"
      :is-dirty="form.isDirty.value"
      :problems="form.triedToSave.value ? form.problems.value.size : 0"
      @back="saving.take(outlet!)"
    />
    <LeaveDialog v-model="question" />
  </form>
</template>

<style scoped>
.settings {
  padding: 14px 16px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 110px;
  gap: 12px;
  margin: 10px 0 6px;
}
</style>
