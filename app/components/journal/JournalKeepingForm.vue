<script setup lang="ts">
import { journalKeeping, type JournalKeeping } from '#core/journal/settings'
import { tryForwarding } from '#shared/api/journal'

/** Where events are kept, how many and for how long, and where they go besides. */
const props = defineProps<{ keeping: JournalKeeping }>()
const emit = defineEmits<{ keep: [keeping: JournalKeeping] }>()
const session = useSession()
const form = useDraft<JournalKeeping>(props.keeping, journalKeeping)
const { draft } = form
watch(
  () => JSON.stringify(props.keeping),
  () => form.reset(props.keeping),
)
const places = [
  { value: 'database' as const, title: 'the database', subtitle: 'They outlive restarts' },
  { value: 'memory' as const, title: 'memory only', subtitle: 'They end with the engine; what is in the database now goes' },
]
const transports = [
  { value: 'udp' as const, title: 'UDP', subtitle: 'Nobody tells whether they arrive' },
  { value: 'tcp' as const, title: 'TCP', subtitle: 'In order; what is under way as a connection breaks may be lost' },
]
const leasts = [
  { value: 'note' as const, title: 'everything' },
  { value: 'caution' as const, title: 'cautions and troubles' },
  { value: 'trouble' as const, title: 'troubles only' },
]
const forwards = computed({
  get: () => draft.value.forward !== null,
  set: (on: boolean) => {
    draft.value.forward = on ? { host: '', port: 514, over: 'udp', tls: { mode: 'off', authority: '' }, facility: 16, least: 'note' } : null
    tried.value = null
  },
})
const setTransport = (over: 'udp' | 'tcp') => {
  const { forward } = draft.value
  if (!forward) return
  draft.value.forward = { ...forward, over, tls: over === 'udp' ? { ...forward.tls, mode: 'off' } : forward.tls }
}

const tried = shallowRef<'busy' | 'sent' | Refused | null>(null)
watch(
  () => JSON.stringify(draft.value.forward),
  () => (tried.value = null),
)
const tryNow = async () => {
  form.triedToSave.value = true
  if (!draft.value.forward || [...form.problems.value.keys()].some((path) => path.startsWith('forward'))) return
  tried.value = 'busy'
  try {
    await callApi(tryForwarding, { body: draft.value.forward })
    tried.value = 'sent'
  } catch (error) {
    tried.value = asRefused(error)
  }
}
const save = () => {
  form.triedToSave.value = true
  if (form.isValid.value) emit('keep', journalKeeping.parse(draft.value))
}
defineExpose({ form })
</script>

<template>
  <form class="keeping" novalidate @submit.prevent="save">
    <div class="fields">
      <ChoiceField v-model="draft.where" label="Events are kept in" :choices="places" />
      <NumberField
        v-model="draft.most as number | null"
        label="At most"
        unit="entries"
        :message="form.messageFor('most')"
        @left="form.touch('most')"
      />
      <NumberField
        v-model="draft.days"
        label="For at most"
        unit="days"
        hint="Empty: while there is room"
        :message="form.messageFor('days')"
        @left="form.touch('days')"
      />
      <NumberField
        v-if="draft.where === 'database'"
        v-model="draft.mostMb"
        label="In at most"
        unit="MB"
        hint="Empty: as much as they take"
        :message="form.messageFor('mostMb')"
        @left="form.touch('mostMb')"
      />
      <NumberField
        v-model="draft.deedDays"
        label="Writes and deeds for"
        unit="days"
        hint="Empty: the newest, whatever their age"
        :message="form.messageFor('deedDays')"
        @left="form.touch('deedDays')"
      />
    </div>
    <v-switch v-model="forwards" label="Hand events on to a syslog server (RFC 5424)" />
    <div v-if="draft.forward" class="fields">
      <TextField
        v-model="draft.forward.host"
        label="Its host"
        mono
        :message="form.messageFor('forward.host')"
        @left="form.touch('forward.host')"
      />
      <NumberField
        v-model="draft.forward.port as number | null"
        label="Its port"
        :message="form.messageFor('forward.port')"
        @left="form.touch('forward.port')"
      />
      <ChoiceField :model-value="draft.forward.over" label="Over" :choices="transports" @update:model-value="setTransport" />
      <TlsFields
        v-if="draft.forward.over === 'tcp'"
        v-model="draft.forward.tls"
        :message="(field) => form.messageFor(`forward.tls.${field}`)"
        @left="form.touch(`forward.tls.${$event}`)"
      />
      <ChoiceField v-model="draft.forward.least" label="Of them" :choices="leasts" />
      <NumberField
        v-model="draft.forward.facility as number | null"
        label="Facility"
        hint="0 to 23; 16 is local0"
        :message="form.messageFor('forward.facility')"
        @left="form.touch('forward.facility')"
      />
    </div>
    <p v-if="tried === 'sent'" role="status">
      Sent.
      <span class="quiet">{{
        draft.forward?.over === 'udp' ? 'Over UDP nobody tells whether it arrived: look there.' : 'The server took it.'
      }}</span>
    </p>
    <FaultNote v-else-if="tried && tried !== 'busy'" :fault="tried.why" />
    <div class="foot">
      <v-btn type="submit" color="primary" :disabled="!form.isDirty.value || !session.can('administer')">Keep it so</v-btn>
      <BusyButton v-if="draft.forward" :busy="tried === 'busy'" :disabled="!session.can('administer')" @click="tryNow"
        >Send one now</BusyButton
      >
      <span v-if="!session.can('administer')" class="quiet">Whoever administers the site may change this.</span>
    </div>
  </form>
</template>

<style scoped>
.keeping {
  display: grid;
  gap: 10px;
  padding: 4px 16px 14px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 12px;
}
.foot {
  display: flex;
  gap: 10px;
  align-items: center;
}
p {
  margin: 0;
}
</style>
