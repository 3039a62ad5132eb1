<script setup lang="ts">
import { makeNode } from '#shared/api/nodes'
import { nodeDraft } from '#shared/nodes'

/** Names a node that is to be. */
const emit = defineEmits<{ made: [] }>()
const notices = useNotices()
const blank = { name: '', note: '' }
const { draft, isValid, messageFor, touch, triedToSave, fromServer } = useDraft({ ...blank }, nodeDraft)
const { busy, refused, attempt } = useAttempt()
const make = () =>
  attempt(async () => {
    triedToSave.value = true
    if (!isValid.value) return
    try {
      const { name, revision } = await callApi(makeNode, { body: draft.value })
      notices.tell(`Node “${name}” made.`, revision)
    } catch (error) {
      fromServer.value = asRefused(error).fields
      throw error
    }
    draft.value = { ...blank }
    triedToSave.value = false
    emit('made')
  })
</script>

<template>
  <form class="sheet part" @submit.prevent="make">
    <h2 class="sheet-title">New node</h2>
    <div class="line">
      <TextField v-model="draft.name" label="Name" placeholder="Outer quay" :message="messageFor('name')" @left="touch('name')" />
      <TextField
        v-model="draft.note"
        label="Where it stands, what for"
        placeholder="cabinet of the cable arms"
        :message="messageFor('note')"
        @left="touch('note')"
      />
      <BusyButton type="submit" variant="flat" :busy="busy">Make node</BusyButton>
    </div>
    <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.line {
  display: grid;
  grid-template-columns: minmax(160px, 260px) minmax(160px, 1fr) auto;
  gap: 10px 14px;
  align-items: end;
}
</style>
