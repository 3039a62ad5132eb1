<script setup lang="ts">
import type { Destination } from '#core/bridges/settings'
import type { BridgePreview } from '#shared/bridges/preview'
import type { TableColumn } from '#shared/links/tables'
import type { Flow } from '#shared/flow'

/** What goes into each field of a destination, what it is now, and how well it fits there. */
const destination = defineModel<Destination>({ required: true })
const props = defineProps<{
  path: string
  title: string
  columns: readonly TableColumn[] | null
  names: readonly string[]
  preview: BridgePreview['destinations'][number] | null
  messageFor(path: string): string
}>()
const emit = defineEmits<{ left: [path: string] }>()
const id = useId()

type Previewed = BridgePreview['destinations'][number]['fields'][number]
const previewed = (i: number): Previewed | null => {
  const found = props.preview?.fields[i]
  return found && found.into === destination.value.fields[i]?.into ? found : null
}
const flowOf = (field: Previewed | null): Flow | 'waiting' => {
  if (!field || (field.how === null && field.text === '')) return 'waiting'
  if (field.how === 'exact') return 'flowing'
  return field.how === 'rounds' || field.how === 'cut' ? 'late' : 'broken'
}
const fitText = (field: Previewed | null) => {
  if (!field) return ''
  return field.how === 'exact' ? 'exact' : field.text
}
const intoTitles = {
  ...{ tags: 'Tag', topic: 'Name in the message', outlet: 'Name in the message' },
  ...{ table: 'Column', file: 'Column', call: 'Parameter' },
}
const isCall = computed(() => destination.value.kind === 'table' && destination.value.how === 'call')
const intoTitle = computed(() => (isCall.value ? 'Parameter' : intoTitles[destination.value.kind]))
const isOne = computed(() => 'form' in destination.value && destination.value.form === 'plain')

const add = () => destination.value.fields.push({ into: '', from: '' })
const remove = (at: number) => destination.value.fields.splice(at, 1)
const message = (i: number, of: 'into' | 'from') => props.messageFor(`${props.path}.fields.${i}.${of}`)

/** Columns that nothing goes into yet, and that are not filled in by the database itself. */
const missing = computed(() => {
  const taken = new Set(destination.value.fields.map(({ into }) => into))
  return (props.columns ?? []).filter(({ name, isGenerated }) => !taken.has(name) && !isGenerated)
})
const fill = () => {
  const fields = destination.value.fields.filter(({ into, from }) => into !== '' || from !== '')
  destination.value.fields = [...fields, ...missing.value.map(({ name }) => ({ into: name, from: props.names.includes(name) ? name : '' }))]
}
</script>

<template>
  <section class="block">
    <div class="head">
      <h2 class="sheet-title">{{ title }}</h2>
      <span class="fill" />
      <slot />
      <v-btn v-if="missing.length > 0" @click="fill"
        >Add the other {{ missing.length }} {{ intoTitle.toLowerCase() }}{{ missing.length === 1 ? '' : 's' }}</v-btn
      >
    </div>
    <div class="sheet scroll">
      <table class="rows cross" :aria-label="`Cross-connections: ${title}`">
        <thead>
          <tr>
            <th>{{ intoTitle }}</th>
            <th>Type there</th>
            <th><span class="visually-hidden">Flow</span></th>
            <th>Comes from</th>
            <th>Now</th>
            <th>Fit</th>
            <th><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(field, i) in destination.fields" :key="i">
            <td class="into">
              <input
                v-model="field.into"
                class="cell-field mono"
                :class="{ wrong: message(i, 'into') }"
                :list="`${id}-columns`"
                :aria-label="`${intoTitle} ${i + 1}`"
                :placeholder="destination.kind === 'tags' ? 'gateway/arm_position' : isOne ? 'value' : 'name'"
                :title="message(i, 'into')"
                spellcheck="false"
                @blur="emit('left', `${path}.fields.${i}.into`)"
              />
              <span v-if="message(i, 'into')" class="is-broken note">{{ message(i, 'into') }}</span>
            </td>
            <td class="mono quiet type">{{ previewed(i)?.type ?? columns?.find(({ name }) => name === field.into)?.type ?? '—' }}</td>
            <td><PipeGlyph :flow="flowOf(previewed(i))" :width="28" /></td>
            <td class="from">
              <input
                v-model="field.from"
                class="cell-field mono"
                :class="{ wrong: message(i, 'from') }"
                :list="`${id}-names`"
                :aria-label="`Comes from ${i + 1}`"
                placeholder="an input, a name or a formula"
                spellcheck="false"
                @blur="emit('left', `${path}.fields.${i}.from`)"
              />
              <span v-if="message(i, 'from')" class="is-broken note">{{ message(i, 'from') }}</span>
            </td>
            <td class="mono now" :title="previewed(i)?.now ?? ''">{{ previewed(i)?.now ?? '—' }}</td>
            <td :class="`is-${flowOf(previewed(i))}`">{{ fitText(previewed(i)) }}</td>
            <td class="remove">
              <button
                v-if="destination.fields.length > 1 || destination.kind === 'call'"
                type="button"
                class="quiet"
                :aria-label="`Remove ${field.into || 'this row'}`"
                @click="remove(i)"
              >
                ✕
              </button>
            </td>
          </tr>
          <tr v-if="!isOne">
            <td colspan="7"><button type="button" class="add" @click="add">+ another field</button></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="preview?.fault && preview.fault.code !== 'sql.no-table'" class="is-late under">
      {{ preview.fault.what }} {{ preview.fault.next }}
    </p>
    <pre v-if="preview?.lines.length" class="mono leaves" aria-label="What would leave">{{ preview.lines.slice(0, 4).join('\n') }}</pre>
    <datalist :id="`${id}-columns`">
      <option v-for="column in columns ?? []" :key="column.name" :value="column.name" />
    </datalist>
    <datalist :id="`${id}-names`">
      <option v-for="name in names" :key="name" :value="name" />
    </datalist>
  </section>
</template>

<style scoped>
.block {
  margin-top: 16px;
}
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 6px;
  min-height: 30px;
}
.fill {
  flex: 1;
}
.scroll {
  overflow-x: auto;
}
.cross td {
  vertical-align: top;
}
.note {
  display: block;
  font-size: 12px;
}
.into {
  width: 26%;
}
.from {
  width: 26%;
}
.type {
  white-space: nowrap;
}
.now {
  max-width: 240px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 500;
}
.remove {
  width: 24px;
}
.add {
  color: var(--primary);
}
.under {
  margin: 6px 2px 0;
}
.leaves {
  margin: 6px 2px 0;
  font-size: 12px;
  color: var(--quiet);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
