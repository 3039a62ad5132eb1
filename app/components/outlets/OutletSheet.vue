<script setup lang="ts">
import { outletContract, type Outlet, type OutletDraft } from '#shared/outlets/outlet'

/** The outlet's settings: its name, its doors, and who may come in by name. */
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

/** The same as the last one, on the next port: most doors differ in little. */
const addDoor = () => {
  const { doors } = draft.value.settings
  const last = doors.at(-1)!
  doors.push({
    ...structuredClone(toRaw(last)),
    policies: [...last.policies],
    modes: [...last.modes],
    port: Math.max(...doors.map(({ port }) => port)) + 1,
  })
}
</script>

<template>
  <form class="sheet settings" novalidate @submit.prevent="saving.save">
    <h2 class="sheet-title">Settings</h2>
    <TextField v-model="draft.name" label="Name" :message="form.messageFor('name')" @left="form.touch('name')" />
    <v-switch v-model="draft.on" label="Open" />
    <DoorFields
      v-for="(_, i) in draft.settings.doors"
      :key="i"
      v-model="draft.settings.doors[i]!"
      :number="i + 1"
      :only="draft.settings.doors.length === 1"
      :message-for="form.messageFor"
      @left="form.touch"
      @drop="draft.settings.doors.splice(i, 1)"
    />
    <v-btn class="more" @click="addDoor">Add a door</v-btn>
    <h2 class="sheet-title people">Clients by name</h2>
    <div v-for="(user, i) in draft.settings.users" :key="i" class="user">
      <TextField v-model="user.name" :label="`Name ${i + 1}`" :message="form.messageFor(`settings.users.${i}.name`)" />
      <SecretField
        v-model="user.password"
        :label="`Password ${i + 1}`"
        :message="form.messageFor(`settings.users.${i}.password`) || form.messageFor(`settings.users.${i}.password.plain`)"
      />
      <v-checkbox v-model="user.mayWrite" label="may write" density="compact" hide-details class="low" />
      <v-btn class="low" height="26" @click="draft.settings.users.splice(i, 1)">Drop</v-btn>
    </div>
    <p v-if="!draft.settings.users.length" class="quiet">None. A door that takes names lets in whoever is listed here.</p>
    <v-btn class="more" @click="draft.settings.users.push({ name: '', password: { plain: '' }, mayWrite: false })">Add a name</v-btn>
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
.more {
  margin-top: 10px;
}
.people {
  margin: 16px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--line-soft);
}
.user {
  display: grid;
  grid-template-columns: 1fr 1fr auto auto;
  gap: 8px;
  align-items: start;
  margin-bottom: 8px;
}
.low {
  margin-top: 21px;
}
</style>
