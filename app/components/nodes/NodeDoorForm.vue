<script setup lang="ts">
import { setNodeDoor } from '#shared/api/nodes'
import { nodeDoor, type NodeDoor } from '#shared/nodes'

/** Where nodes come in: a port of this machine, and how it is reached from outside. */
const props = defineProps<{ door: NodeDoor | null }>()
const emit = defineEmits<{ changed: [door: NodeDoor | null] }>()
const live = useLive()
const session = useSession()
const notices = useNotices()
const blank: NodeDoor = { host: '', outsidePort: null, interface: '0.0.0.0', port: 8471 }
const { draft, isValid, isDirty, messageFor, touch, triedToSave, fromServer } = useDraft<NodeDoor>(props.door ?? blank, nodeDoor)
const { busy, refused, attempt } = useAttempt()
const isOpen = ref(props.door === null)
const summary = computed(() =>
  props.door
    ? `${props.door.host}:${props.door.outsidePort ?? props.door.port}, listens at ${props.door.interface}:${props.door.port}`
    : 'closed',
)

const set = (door: NodeDoor | null) =>
  attempt(async () => {
    triedToSave.value = true
    if (door && !isValid.value) return
    try {
      await callApi(setNodeDoor, { body: { door } })
    } catch (error) {
      fromServer.value = asRefused(error).fields.map((field) => ({ ...field, path: field.path.replace(/^door\./, '') }))
      throw error
    }
    notices.tell(door ? 'Nodes can come in.' : 'Nodes come in nowhere.')
    isOpen.value = door === null
    emit('changed', door)
  })
</script>

<template>
  <form class="sheet part" @submit.prevent="set(draft)">
    <div class="line">
      <h2 class="sheet-title">Door of nodes</h2>
      <span class="mono">{{ summary }}</span>
      <span class="fill" />
      <button v-if="door" type="button" class="link" :aria-expanded="isOpen" @click="isOpen = !isOpen">
        {{ isOpen ? 'less' : 'change' }}
      </button>
    </div>
    <FaultNote v-if="live.status?.nodeDoorFault" :fault="live.status.nodeDoorFault" class="gap" />
    <template v-if="isOpen">
      <p class="quiet">
        Nodes dial this machine: one TCP port, TLS 1.3 with this site’s own authority. Only machines that came in by a code are let in.
      </p>
      <div class="grid">
        <NodeDoorFields v-model="draft" :message-for="messageFor" @left="touch" />
      </div>
      <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" class="gap" />
      <div class="line foot">
        <BusyButton type="submit" variant="flat" :busy="busy" :disabled="!session.can('administer') || (door !== null && !isDirty)">{{
          door ? 'Save' : 'Open it'
        }}</BusyButton>
        <v-btn v-if="door" :disabled="!session.can('administer') || busy" @click="set(null)">Close it</v-btn>
        <span v-if="!session.can('administer')" class="quiet">An administrator opens it.</span>
      </div>
    </template>
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
}
.fill {
  flex: 1;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 10px 14px;
  align-items: start;
  margin-top: 8px;
}
.foot {
  margin-top: 12px;
}
.gap {
  margin-top: 10px;
}
p {
  margin: 4px 0;
  max-width: 100ch;
}
</style>
