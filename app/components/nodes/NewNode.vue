<script setup lang="ts">
import { makeNode } from '#shared/api/nodes'
import { nodeDraft, type NodeDraft } from '#shared/nodes'

/** Names a node that is to be. */
const emit = defineEmits<{ made: [] }>()
const notices = useNotices()
const blank: NodeDraft = { name: '', note: '', standsBy: false, door: null }
const { draft, isValid, messageFor, touch, triedToSave, fromServer, reset } = useDraft<NodeDraft>({ ...blank }, nodeDraft)
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
    reset({ ...blank })
    emit('made')
  })
</script>

<template>
  <form class="sheet part" @submit.prevent="make">
    <h2 class="sheet-title">New node</h2>
    <NodeFields v-model="draft" :message-for="messageFor" @left="touch" />
    <BusyButton type="submit" variant="flat" :busy="busy" class="make">Make node</BusyButton>
    <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.make {
  margin-top: 12px;
}
</style>
