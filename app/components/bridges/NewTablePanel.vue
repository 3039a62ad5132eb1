<script setup lang="ts">
import type { Destination } from '#core/bridges/settings'
import { choosableTypes, proposedFor } from '#core/sql/columnTypes'
import { createStatements } from '#core/sql/createTable'
import type { SqlDialect } from '#core/sql/settings'
import type { DataType } from '#core/tags/types'
import { createTable } from '#shared/api/links'

/** A table that is made from the cross-connections: types proposed, the statement shown before it runs. */
const props = defineProps<{
  destination: Extract<Destination, { kind: 'table' }>
  dialect: SqlDialect
  /** The type of what goes into each field, as far as it is known. */
  types: readonly (DataType | null)[]
}>()
const emit = defineEmits<{ made: []; close: [] }>()
const notices = useNotices()
const busy = ref(false)
const refused = ref<Refused | null>(null)

interface Row {
  name: string
  type: string
  nullable: boolean
}
const chosen = ref(new Map<string, Partial<Row>>())
const indexed = ref('')
const rows = computed<Row[]>(() =>
  props.destination.fields
    .filter(({ into }) => into !== '')
    .map(({ into }, i) => ({
      ...{ name: into, type: proposedFor(props.types[i] ?? 'float64', props.dialect), nullable: true },
      ...chosen.value.get(into),
    })),
)
const set = (name: string, part: Partial<Row>) => chosen.value.set(name, { ...chosen.value.get(name), ...part })
const times = computed(() => rows.value.filter(({ type }) => /time/.test(type)).map(({ name }) => name))
const indexChoices = computed(() => [{ value: '', title: 'none' }, ...times.value.map((name) => ({ value: name, title: name }))])
watch(times, (found) => (indexed.value = found.includes(indexed.value) ? indexed.value : (found[0] ?? '')), { immediate: true })

const parted = computed(() => (times.value.includes(props.destination.parts?.column ?? '') ? props.destination.parts!.column : ''))
const table = computed(() => ({
  ...{ schema: props.destination.schema, table: props.destination.table, columns: rows.value },
  ...{ key: props.destination.how === 'insert' ? [] : props.destination.key, indexed: indexed.value },
  ...{ parted: parted.value, partedPer: props.destination.parts?.per ?? ('month' as const) },
}))
const statements = computed(() => createStatements(table.value, props.dialect).join(';\n'))

const make = async () => {
  busy.value = true
  refused.value = null
  try {
    await callApi(createTable, { params: { id: props.destination.linkId }, body: { table: table.value, run: true } })
    notices.tell(`Table ${props.destination.table} created.`)
    emit('made')
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="sheet new">
    <h3 class="sheet-title">Create the table {{ [destination.schema, destination.table].filter(Boolean).join('.') }}</h3>
    <div class="pair">
      <table class="rows" aria-label="Columns of the new table">
        <thead>
          <tr>
            <th>Column</th>
            <th>Type</th>
            <th>May be empty</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.name">
            <td class="mono">{{ row.name }}</td>
            <td>
              <select
                class="mono"
                :value="row.type"
                :aria-label="`Type of ${row.name}`"
                @change="set(row.name, { type: ($event.target as HTMLSelectElement).value })"
              >
                <option v-for="type in choosableTypes[dialect]" :key="type">{{ type }}</option>
              </select>
            </td>
            <td>
              <input
                type="checkbox"
                class="tick"
                :checked="row.nullable"
                :aria-label="`${row.name} may be empty`"
                @change="set(row.name, { nullable: ($event.target as HTMLInputElement).checked })"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <div>
        <ChoiceField v-model="indexed" label="An index on the time" :choices="indexChoices" />
        <pre class="mono statement" aria-label="The statement">{{ statements }}</pre>
      </div>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <p v-for="field in refused?.fields ?? []" :key="field.message" class="is-broken">{{ field.message }}</p>
    <div class="buttons">
      <BusyButton variant="flat" :busy="busy" @click="make">Create it</BusyButton>
      <v-btn @click="$emit('close')">Not now</v-btn>
    </div>
  </section>
</template>

<style scoped>
.new {
  padding: 14px 18px;
  margin-top: 8px;
  border-left: 4px solid var(--copper);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 24px;
  margin: 8px 0 12px;
}
select {
  font: inherit;
  font-family: var(--mono);
  color: inherit;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 2px 4px;
}
.statement {
  margin: 12px 0 0;
  font-size: 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  gap: 10px;
}
</style>
