<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import type { Destination } from '#core/bridges/settings'
import { parametersOf } from '#core/http/operation'
import type { SqlSettings } from '#core/sql/settings'
import { showTable } from '#shared/api/links'
import type { BridgePreview } from '#shared/bridges/preview'
import type { TableColumn } from '#shared/links/tables'
import { givenFor, operationsOf } from '~/bridges/operations'

/** One destination: its cross-connections, and where it is a table, its columns or the way to create it. */
const destination = defineModel<Destination>({ required: true })
const props = defineProps<{
  path: string
  title: string
  names: readonly string[]
  preview: BridgePreview['destinations'][number] | null
  messageFor(path: string): string
}>()
defineEmits<{ left: [path: string] }>()
const lists = useLists()

const columns = ref<TableColumn[] | null>(null)
const isMissing = ref(false)
const isCreating = ref(false)
const place = computed(() => {
  const { value } = destination
  return value.kind === 'table' && value.linkId > 0 && value.table !== ''
    ? { linkId: value.linkId, schema: value.schema, table: value.table, procedure: value.how === 'call' }
    : null
})
const dialect = computed(() => {
  const link = lists.links.find(({ id }) => id === place.value?.linkId)
  return link?.kind === 'sql' ? (link.settings as SqlSettings).dialect : null
})
/** The parameters of an operation stand where a table has its columns. */
const parameters = computed(() => {
  const { value } = destination
  if (value.kind !== 'call') return null
  const operation = operationsOf(lists.links, value.linkId).find(({ name }) => name === value.operation)
  const rest = { type: '', nullable: true, hasDefault: false, isGenerated: false, isKey: false }
  return operation ? parametersOf(operation).map((name): TableColumn => ({ name, ...rest })) : null
})
watch(
  () => (destination.value.kind === 'call' ? [destination.value.linkId, destination.value.operation] : null),
  (wanted) => {
    const { value } = destination
    if (!wanted || value.kind !== 'call') return
    value.fields = givenFor(
      operationsOf(lists.links, value.linkId).find(({ name }) => name === value.operation),
      value.fields,
      props.names,
    )
  },
)
let turn = 0
const look = async () => {
  const mine = ++turn
  const wanted = place.value
  if (!wanted) return void ([columns.value, isMissing.value] = [null, false])
  const { linkId, ...body } = wanted
  try {
    const found = await callApi(showTable, { params: { id: linkId }, body })
    if (mine === turn) [columns.value, isMissing.value] = [found.columns, false]
  } catch (error) {
    if (mine === turn) [columns.value, isMissing.value] = [null, asRefused(error).why.code === 'sql.no-table']
  }
}
watch(() => JSON.stringify(place.value), useDebounceFn(look, 400))
onMounted(look)

const types = computed(() => destination.value.fields.map((_, i) => props.preview?.fields[i]?.comes ?? null))
const made = () => {
  isCreating.value = false
  void look()
}
</script>

<template>
  <div>
    <CrossConnections
      v-model="destination"
      :path="path"
      :title="title"
      :columns="parameters ?? columns"
      :names="names"
      :preview="preview"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    >
      <span v-if="isMissing && place?.procedure" class="is-late">There is no such procedure.</span>
      <template v-else-if="isMissing && !isCreating">
        <span class="is-late">There is no such table yet.</span>
        <v-btn variant="flat" @click="isCreating = true">Create the table …</v-btn>
      </template>
    </CrossConnections>
    <NewTablePanel
      v-if="isCreating && destination.kind === 'table' && dialect"
      :destination="destination"
      :dialect="dialect"
      :types="types"
      @made="made"
      @close="isCreating = false"
    />
  </div>
</template>
