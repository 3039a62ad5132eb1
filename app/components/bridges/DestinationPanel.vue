<script setup lang="ts">
import type { Destination, DestinationKind } from '#core/bridges/settings'
import { qosLevels, qosText } from '#core/mqtt/settings'
import { listTables } from '#shared/api/links'
import { listWhole } from '#shared/api/lists'
import type { ListedTable } from '#shared/links/tables'
import { blankDestination, destinationTitles, receivers } from '~/bridges/blank'
import { decimals, delimiters } from '~/bridges/csvChoices'

/** Where records go. */
const destination = defineModel<Destination>({ required: true })
const props = defineProps<{ path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
const kinds = (Object.keys(destinationTitles) as DestinationKind[]).map((kind) => ({ value: kind, title: destinationTitles[kind] }))
const links = computed(() => receivers(destination.value.kind, lists).map(({ id, name }) => ({ value: id, title: name })))
const choose = (kind: DestinationKind) =>
  (destination.value = blankDestination(kind, destination.value.number, lists, destination.value.fields))

const forms = [
  { value: 'json' as const, title: 'JSON', subtitle: 'an object with all fields' },
  { value: 'plain' as const, title: 'plain', subtitle: 'the one value as text' },
]
const qualities = qosLevels.map((qos) => ({ value: qos, title: `${qos}: ${qosText[qos]}` }))
const hows = [
  { value: 'insert' as const, title: 'a new row each time' },
  { value: 'upsert' as const, title: 'new, or in place of the one with its key' },
  { value: 'update' as const, title: 'only where there is one with its key' },
  { value: 'call' as const, title: 'a call of a procedure' },
]
const parts = [
  { value: 'one' as const, title: 'one file' },
  { value: 'day' as const, title: 'one for each day (UTC)' },
  { value: 'run' as const, title: 'one for each run' },
  { value: 'size' as const, title: 'another once it is large' },
]
const quotes = [
  { value: 'needed' as const, title: 'where needed' },
  { value: 'text' as const, title: 'around texts' },
  { value: 'all' as const, title: 'around all' },
]
const encodings = [
  { value: 'utf-8' as const, title: 'UTF-8' },
  { value: 'utf-8-bom' as const, title: 'UTF-8 with its mark' },
  { value: 'utf-16le' as const, title: 'UTF-16' },
  { value: 'windows-1252' as const, title: 'Windows-1252' },
]
const newlines = [
  { value: 'crlf' as const, title: 'CR LF' },
  { value: 'lf' as const, title: 'LF' },
]
/** The tables that are there already; typed names may be others. */
const listed = ref<ListedTable[]>([])
const isCall = computed(() => destination.value.kind === 'table' && destination.value.how === 'call')
const tables = computed(() =>
  listed.value.filter(({ kind }) => (kind === 'procedure') === isCall.value).map(({ schema, table }) => `${schema}.${table}`),
)
watch(
  () => (destination.value.kind === 'table' ? destination.value.linkId : 0),
  async (id) => {
    const found = id > 0 ? await callApi(listTables, { params: { id }, query: { limit: listWhole } }).catch(() => null) : null
    listed.value = found?.items ?? []
  },
  { immediate: true },
)
const place = computed({
  get: () => (destination.value.kind === 'table' ? [destination.value.schema, destination.value.table].filter(Boolean).join('.') : ''),
  set: (text) => {
    if (destination.value.kind !== 'table') return
    const at = text.indexOf('.')
    destination.value.schema = at > 0 ? text.slice(0, at) : ''
    destination.value.table = at > 0 ? text.slice(at + 1) : text
  },
})
const key = computed({
  get: () => (destination.value.kind === 'table' ? destination.value.key.join(', ') : ''),
  set: (text) => {
    if (destination.value.kind === 'table') destination.value.key = text.split(/[,\s]+/).filter(Boolean)
  },
})
</script>

<template>
  <div class="fields">
    <ChoiceField :model-value="destination.kind" label="Send to" :choices="kinds" @update:model-value="choose" />
    <p v-if="destination.kind === 'tags'" class="quiet wide note">
      Below, each row is a tag and what it is set to. A path may hold parts of the one that set it off: mirror/{part2}/power.
    </p>
    <template v-else>
      <ChoiceField
        v-if="destination.kind === 'outlet'"
        v-model="destination.outletId"
        label="Outlet"
        :choices="links"
        :message="message('outletId')"
      />
      <OperationChoice
        v-else-if="destination.kind === 'call'"
        v-model:link-id="destination.linkId"
        v-model:operation="destination.operation"
        :link-message="message('linkId')"
        :message="message('operation')"
      />
      <ChoiceField v-else v-model="destination.linkId" label="Over" :choices="links" :message="message('linkId')" />
      <p v-if="links.length === 0 && destination.kind !== 'call'" class="is-late wide note">
        Nothing takes this yet. <NuxtLink :to="destination.kind === 'outlet' ? '/outlets/new' : '/links/new'">Make it first</NuxtLink>, and
        come back.
      </p>
    </template>
    <template v-if="destination.kind === 'topic' || destination.kind === 'outlet'">
      <TextField
        v-model="destination.topic"
        class="wide"
        label="Topic"
        mono
        placeholder="harbour/berth/{part2}/power"
        :message="message('topic')"
        @left="left('topic')"
      />
      <ChoiceField v-model="destination.form" label="Payload" :choices="forms" />
      <ChoiceField v-model="destination.qos" label="Quality of service" :choices="qualities" />
      <v-switch v-model="destination.retain" label="The broker keeps the last one" />
    </template>
    <template v-else-if="destination.kind === 'table'">
      <SuggestField
        v-model="place"
        class="wide"
        :label="isCall ? 'Procedure' : 'Table'"
        :among="tables"
        placeholder="energy, or billing.energy"
        :message="message('table') || message('schema')"
        @left="left('table')"
      />
      <ChoiceField v-model="destination.how" label="It becomes" :choices="hows" />
      <TextField
        v-if="destination.how === 'upsert' || destination.how === 'update'"
        v-model="key"
        label="Found again by"
        mono
        hint="columns, with commas between"
        :message="message('key')"
        @left="left('key')"
      />
    </template>
    <PartingFields
      v-if="destination.kind === 'table' && destination.how !== 'call'"
      v-model="destination.parts"
      :columns="destination.fields.map(({ into }) => into)"
      :path="`${path}.parts`"
      :message-for="messageFor"
    />
    <template v-if="destination.kind === 'file'">
      <TextField
        v-model="destination.name"
        class="wide"
        label="File"
        mono
        placeholder="meters.csv, or {part2}/meters.csv"
        :message="message('name')"
        @left="left('name')"
      />
      <ChoiceField v-model="destination.per" label="In" :choices="parts" />
      <NumberField v-if="destination.per === 'size'" v-model="destination.most" label="Large is" unit="MB" :message="message('most')" />
      <ChoiceField v-model="destination.way.delimiter" label="Between values" :choices="delimiters" />
      <ChoiceField v-model="destination.way.decimal" label="Decimals" :choices="decimals" :message="message('way.decimal')" />
      <ChoiceField v-model="destination.way.quote" label="Quotation marks" :choices="quotes" />
      <ChoiceField v-model="destination.way.encoding" label="Encoding" :choices="encodings" />
      <ChoiceField v-model="destination.way.newline" label="Lines end with" :choices="newlines" />
      <v-switch v-model="destination.way.header" label="The first line names the columns" />
    </template>
    <TextField
      v-if="destination.kind === 'call'"
      v-model="destination.keyHeader"
      label="Header by which a repeat is known again"
      mono
      placeholder="none"
      :message="message('keyHeader')"
      @left="left('keyHeader')"
    />
  </div>
</template>
