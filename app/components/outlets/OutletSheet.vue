<script setup lang="ts">
import { outletContract, type Outlet, type OutletDraft } from '#shared/outlets/outlet'

/** The outlet's settings: name, port, and what anonymous clients may do. */
const props = defineProps<{ initial: OutletDraft; outlet: Outlet | null }>()
const emit = defineEmits<{ saved: [outlet: Outlet] }>()
const form = useDraft<OutletDraft>(props.initial, outletContract)
const { draft } = form
const notices = useNotices()
const { question, letGo } = useLeaveGuard(() => form.isDirty.value)
const saving = ref(false)
const refused = ref<Refused | null>(null)
const revision = ref(props.outlet?.revision ?? 0)
const theirs = computed(() => (refused.value?.why.code === 'entry.edited' ? (refused.value.more.current as Outlet) : null))

const take = (saved: Outlet) => {
  form.reset({ name: saved.name, kind: saved.kind, on: saved.on, settings: saved.settings })
  revision.value = saved.revision
  refused.value = null
}

const save = async () => {
  form.triedToSave.value = true
  refused.value = null
  if (!form.isValid.value) return
  saving.value = true
  try {
    const saved = props.outlet
      ? await callApi<Outlet>(`/outlets/${props.outlet.id}`, { method: 'PUT', body: { revision: revision.value, outlet: draft.value } })
      : await callApi<Outlet>('/outlets', { method: 'POST', body: draft.value })
    take(saved)
    notices.tell(`Outlet “${saved.name}” saved.`, saved.revision)
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
</script>

<template>
  <form class="sheet settings" novalidate @submit.prevent="save">
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
    <FaultNote v-if="refused && refused.why.code !== 'entry.invalid'" :fault="refused.why" :mild="!!theirs">
      <template v-if="theirs">
        <v-btn variant="flat" @click="take(theirs)">Show theirs</v-btn>
        <v-btn @click="saveOverTheirs">Save mine over it</v-btn>
      </template>
    </FaultNote>
    <div class="foot">
      <v-btn type="submit" variant="flat" :loading="saving" :disabled="outlet !== null && !form.isDirty.value">{{
        outlet ? 'Save changes' : 'Open the outlet'
      }}</v-btn>
      <v-btn v-if="outlet && form.isDirty.value" @click="take(outlet)">Put back</v-btn>
    </div>
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
.foot {
  display: flex;
  gap: 10px;
  margin-top: 10px;
}
</style>
