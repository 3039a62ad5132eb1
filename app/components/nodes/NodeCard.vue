<script setup lang="ts">
import { wholeSeconds } from '#core/text/duration'
import { changeNode, leadNode, makeNodeCode, removeNode, withdrawNodeCode } from '#shared/api/nodes'
import { nodeDraft, type LeadStatus, type NodeCode, type NodeDraft, type NodeStatus, type SavedNode } from '#shared/nodes'
import { leadText, nodeFacts } from './nodeFacts'

/** One node: how it is, what its machine is like, which configuration it runs, and the command that makes a machine it. */
const props = defineProps<{
  node: SavedNode
  status: NodeStatus | null
  lead: LeadStatus | null
  code: NodeCode | null
  hasDoor: boolean
  now: number
}>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const notices = useNotices()
const { copied, copy } = useCopy()
const { busy, refused, attempt } = useAttempt()
const isOpen = ref(false)
const asking = ref(false)
const askingLead = ref(false)
const changing = ref(false)
const { name, note, standsBy, door } = props.node
const { draft, isValid, messageFor, touch, triedToSave, fromServer } = useDraft<NodeDraft>({ name, note, standsBy, door }, nodeDraft)
const leads = computed(() => props.lead?.node === props.node.id)
const couldLead = computed(() => props.lead?.canHandOver.includes(props.node.id) ?? false)

const facts = computed(() => (props.status && props.status.since !== null ? nodeFacts(props.status) : []))

const make = () =>
  attempt(async () => {
    await callApi(makeNodeCode, { params: { id: props.node.id }, body: { minutes: 60 } })
    emit('changed')
  })
const withdraw = () =>
  attempt(async () => {
    await callApi(withdrawNodeCode, { params: { id: props.node.id } })
    emit('changed')
  })
const save = () =>
  attempt(async () => {
    triedToSave.value = true
    if (!isValid.value) return
    const { id, revision } = props.node
    try {
      const saved = await callApi(changeNode, { params: { id }, body: { revision, node: draft.value } })
      notices.tell(`Node “${saved.name}” saved.`, saved.revision)
    } catch (error) {
      fromServer.value = asRefused(error).fields.map((field) => ({ ...field, path: field.path.replace(/^node\./, '') }))
      throw error
    }
    changing.value = false
    emit('changed')
  })
const handOver = () =>
  attempt(async () => {
    askingLead.value = false
    await callApi(leadNode, { params: { id: props.node.id } })
    notices.tell(`“${props.node.name}” is about to lead the site. This page comes back by itself.`)
  })
const remove = () =>
  attempt(async () => {
    asking.value = false
    const { revision } = await callApi(removeNode, { params: { id: props.node.id } })
    notices.tell(`Node “${props.node.name}” removed.`, revision)
    emit('changed')
  })
</script>

<template>
  <article class="sheet part" :data-node="node.name">
    <div class="line">
      <PipeGlyph :flow="status?.flow ?? 'waiting'" :width="48" />
      <h2 class="name">{{ node.name }}</h2>
      <span v-if="leads" class="mark leads">leads</span>
      <span v-else-if="node.standsBy" class="mark">stands by</span>
      <span v-if="node.note" class="quiet">{{ node.note }}</span>
      <span class="fill" />
      <template v-if="session.can('configure')">
        <v-btn v-if="couldLead && session.can('administer')" height="26" :disabled="busy" @click="askingLead = true">Let it lead…</v-btn>
        <v-btn height="26" @click="changing = !changing">Change</v-btn>
        <template v-if="!leads">
          <v-btn height="26" :disabled="!hasDoor || busy" @click="make">{{ node.key ? 'Another machine…' : 'Make its command' }}</v-btn>
          <v-btn height="26" color="break" @click="asking = true">Remove…</v-btn>
        </template>
      </template>
    </div>
    <p v-if="!leads || !status" :class="`is-${status?.flow}`">{{ status?.sentence ?? 'The engine is not there.' }}</p>
    <p v-if="leads && lead" :class="{ 'is-late': lead.holdsBy === 'promise' }">{{ leadText(lead, now) }}</p>
    <form v-if="changing" class="gap" @submit.prevent="save">
      <NodeFields v-model="draft" :message-for="messageFor" :is-machine="node.key !== null" autofocus @left="touch" />
      <BusyButton type="submit" :busy="busy" class="gap">Save</BusyButton>
    </form>
    <section v-if="code" class="command" aria-live="polite">
      <p>
        On the machine that is to be this node, where this application lies, as root{{
          node.standsBy ? '; it needs the way to the database as well' : ''
        }}. The command is for one use, for {{ wholeSeconds(Math.max(0, code.endsAt - now)) }} more{{
          node.key ? '; whichever machine was this node before is not let in any more then' : ''
        }}.
      </p>
      <p class="mono code">{{ code.command }}</p>
      <div class="line">
        <button type="button" class="link" @click="copy(code.command)">
          {{ copied === code.command ? 'copied' : 'copy the command' }}
        </button>
        <button type="button" class="link" @click="withdraw">withdraw it</button>
        <span v-if="code.tries > 0" class="is-late">{{ code.tries }} with a wrong proof so far</span>
      </div>
    </section>
    <FaultNote v-if="refused" :fault="refused.why" class="gap" />
    <FaultNote v-else-if="status?.fault && status.fault.code !== 'node.never'" :fault="status.fault" mild class="gap" />
    <dl v-if="facts.length > 0" class="facts">
      <div v-for="fact in facts" :key="fact.title">
        <dt>{{ fact.title }}</dt>
        <dd :class="{ mono: fact.isMono, 'is-late': fact.isLate }">{{ fact.text }}</dd>
      </div>
    </dl>
    <template v-if="status && status.notInForce.length > 0">
      <button type="button" class="link" :aria-expanded="isOpen" @click="isOpen = !isOpen">
        {{ isOpen ? 'less' : `what is not as configured there (${status.notInForceCount})` }}
      </button>
      <FaultNote
        v-for="thing in isOpen ? status.notInForce : []"
        :key="`${thing.subject} ${thing.id}`"
        :fault="thing.fault"
        mild
        class="gap"
      />
    </template>
    <AskDialog v-model="askingLead" :title="`Let “${node.name}” lead the site?`" yes="Hand over" no="Keep" @yes="handOver">
      <p>
        What this machine runs ends here in order, and begins there within a second or two. Links that are placed on a machine stay there.
      </p>
    </AskDialog>
    <AskDialog v-model="asking" :title="`Remove node “${node.name}”?`" yes="Remove" no="Keep" grave @yes="remove">
      <p>Its machine is not let in any more. What it recorded and did not bring here yet is lost for this site.</p>
    </AskDialog>
  </article>
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
.name {
  font-size: 16px;
  font-weight: 600;
  margin: 0;
  overflow-wrap: anywhere;
}
.mark {
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 0 6px;
  font-size: 12px;
}
.leads {
  border-color: var(--copper);
  font-weight: 600;
}
.fill {
  flex: 1;
}
p {
  margin: 6px 0 0;
  max-width: 110ch;
}
.command {
  border-left: 3px solid var(--copper);
  padding: 2px 0 4px 12px;
  margin-top: 10px;
}
.code {
  font-size: 14px;
  font-weight: 600;
  margin: 8px 0 6px;
  overflow-wrap: anywhere;
  user-select: all;
}
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 8px 16px;
  margin: 12px 0 4px;
}
dt {
  font-size: 12px;
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.gap {
  margin-top: 8px;
}
</style>
