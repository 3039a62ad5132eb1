<script setup lang="ts">
import type { CursorSettings, RecordSetDraft, SnapshotSettings } from '#core/records/settings'

/** Which rows, which of their columns, how they are told apart, and which values are written back. */
const draft = defineModel<RecordSetDraft>({ required: true })
defineProps<{ part: 'from' | 'columns' | 'key' | 'writes'; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const how = computed(() => draft.value.how as SnapshotSettings | CursorSettings)
const cursor = computed(() => (draft.value.how.kind === 'cursor' ? draft.value.how : null))
const links = computed(() => lists.rowLinks.map(({ id, name }) => ({ value: id, title: name })))
const { tables, columns } = useTables(
  () => draft.value.linkId,
  () => (how.value.from.kind === 'table' ? { schema: how.value.from.schema, table: how.value.from.table } : null),
)
const among = computed(() => tables.value.filter(({ kind }) => kind !== 'procedure').map(placeText))
const names = computed(() => columns.value.map(({ name }) => name))
const froms = [
  { value: 'table' as const, title: 'a table or view' },
  { value: 'query' as const, title: 'a statement' },
]
const choose = (kind: 'table' | 'query') => (how.value.from = kind === 'table' ? { kind, schema: '', table: '' } : { kind, statement: '' })
const place = computed({
  get: () => (how.value.from.kind === 'table' ? placeText(how.value.from) : ''),
  set: (text) => {
    how.value.from = { kind: 'table', ...placeOfText(text) }
  },
})
/** What tells rows apart is the key of the table, unless somebody says otherwise. */
watch(columns, (found) => {
  const keys = found.filter(({ isKey }) => isKey)
  if (how.value.key === '' && keys.length === 1) how.value.key = keys[0]!.name
})
const listed = (of: 'columns' | 'writes') =>
  computed({
    get: () => how.value[of].join(', '),
    set: (text: string) => (how.value[of] = text.split(/[,\s]+/).filter(Boolean)),
  })
const chosen = listed('columns')
const writes = listed('writes')
const starts = [
  { value: 'first' as const, title: 'the first row' },
  { value: 'last' as const, title: 'the last row' },
  { value: 'kept' as const, title: 'where it pointed before' },
]
const add = (of: 'columns' | 'writes', name: string) => {
  const all = how.value[of]
  how.value[of] = all.includes(name) ? all.filter((one) => one !== name) : [...all, name]
}
</script>

<template>
  <div v-if="part === 'from'" class="fields">
    <ChoiceField v-model="draft.linkId" label="Over" :choices="links" :message="messageFor('linkId')" />
    <ChoiceField :model-value="how.from.kind" label="Rows of" :choices="froms" @update:model-value="choose" />
    <SuggestField
      v-if="how.from.kind === 'table'"
      v-model="place"
      class="wide"
      label="Table or view"
      :among="among"
      placeholder="voyage, or billing.tariff"
      :message="messageFor('how.from.table')"
      @left="emit('left', 'how.from.table')"
    />
    <AreaField
      v-else
      v-model="how.from.statement"
      class="whole"
      label="Statement"
      placeholder="select number, ship, limit_kw from voyage where berth = 'berth/1'"
      hint="It only asks: nothing that it says can change anything there."
      :message="messageFor('how.from.statement')"
      @left="emit('left', 'how.from.statement')"
    />
  </div>
  <div v-else-if="part === 'key'" class="fields">
    <SuggestField
      v-model="how.key"
      :label="cursor ? 'Column that tells rows apart' : 'Column that names the rows'"
      :among="names"
      :hint="cursor ? '' : 'empty: they are numbered'"
      :message="messageFor('how.key')"
      @left="emit('left', 'how.key')"
    />
    <SuggestField
      v-model="how.order"
      label="In the order of"
      :among="names"
      hint="empty: by that column"
      :message="messageFor('how.order')"
    />
    <template v-if="cursor">
      <v-switch v-model="cursor.descending" label="The last first" />
      <ChoiceField v-model="cursor.starts" label="It begins at" :choices="starts" />
    </template>
  </div>
  <div v-else class="fields">
    <TextField
      v-if="part === 'columns'"
      v-model="chosen"
      class="whole"
      label="Columns that become tags"
      mono
      hint="with commas between; empty: all of them"
      :message="messageFor('how.columns')"
      @left="emit('left', 'how.columns')"
    />
    <TextField
      v-else
      v-model="writes"
      class="whole"
      label="Columns that consumers may write"
      mono
      hint="with commas between; a value is written by its key, and only where nobody else changed it since it was read"
      :message="messageFor('how.writes') || messageFor('how.writes.0')"
      @left="emit('left', 'how.writes')"
    />
    <p v-if="names.length" class="whole names">
      <button
        v-for="name in names"
        :key="name"
        type="button"
        class="name mono"
        :class="{ chosen: how[part].includes(name) }"
        :aria-pressed="how[part].includes(name)"
        @click="add(part, name)"
      >
        {{ name }}
      </button>
    </p>
  </div>
</template>

<style scoped>
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 0;
}
.name {
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.name.chosen {
  border-color: var(--primary);
  background: var(--tint);
}
</style>
