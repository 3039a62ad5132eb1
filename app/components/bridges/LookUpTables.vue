<script setup lang="ts">
import type { LookUp } from '#core/bridges/lookUps'
import { counted } from '#core/text/counted'

/** Tables that say what one thing is called elsewhere; in cross-connections each is a function. */
const lookUps = defineModel<LookUp[]>({ required: true })
const props = defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const open = ref<number | null>(null)

const add = () => {
  const names = new Set(lookUps.value.map(({ name }) => name))
  let at = 1
  while (names.has(`table${at}`)) at++
  open.value = lookUps.value.push({ name: `table${at}`, rows: [{ is: '', becomes: '' }], otherwise: null }) - 1
}
const remove = (at: number) => {
  lookUps.value.splice(at, 1)
  open.value = null
}

/** Rows as they come out of a spreadsheet: two columns with a tab, a semicolon or a comma between. */
const rowsIn = (text: string): LookUp['rows'] =>
  text
    .split(/\r?\n/)
    .filter((line) => line.trim() !== '')
    .map((line) => {
      const [is = '', ...rest] = line.split(line.includes('\t') ? '\t' : line.includes(';') ? ';' : ',')
      return { is: is.trim(), becomes: rest.join(',').trim() }
    })
const paste = (event: ClipboardEvent, table: LookUp, at: number) => {
  const text = event.clipboardData?.getData('text') ?? ''
  if (!/[\t\n;]/.test(text.trim())) return
  event.preventDefault()
  table.rows.splice(at, table.rows[at]?.is === '' ? 1 : 0, ...rowsIn(text))
}
const message = (i: number, field: string) => props.messageFor(`lookUps.${i}.${field}`)
const otherwise = (table: LookUp, text: string) => (table.otherwise = text === '' ? null : text)
</script>

<template>
  <section class="block">
    <div class="head">
      <h2 class="sheet-title">Look-up tables</h2>
      <button
        v-for="(table, i) in lookUps"
        :key="i"
        type="button"
        class="part mono"
        :class="{ open: open === i }"
        :aria-expanded="open === i"
        @click="open = open === i ? null : i"
      >
        {{ table.name || '…' }}(x) · {{ counted(table.rows.length, 'row') }}
      </button>
      <button type="button" class="more" @click="add">+ a look-up table</button>
    </div>
    <div v-if="open !== null && lookUps[open]" class="sheet panel">
      <div class="pair">
        <TextField
          v-model="lookUps[open]!.name"
          label="Name"
          mono
          :hint="`used as ${lookUps[open]!.name || 'name'}(x) in cross-connections`"
          :message="message(open, 'name')"
          @left="emit('left', `lookUps.${open}.name`)"
        />
        <TextField
          :model-value="lookUps[open]!.otherwise ?? ''"
          label="Everything else becomes"
          mono
          hint="empty: nothing comes of it, and the run says so"
          @update:model-value="otherwise(lookUps[open]!, $event)"
        />
      </div>
      <table class="rows" :aria-label="`Rows of ${lookUps[open]!.name}`">
        <thead>
          <tr>
            <th>Is</th>
            <th>Becomes</th>
            <th><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, at) in lookUps[open]!.rows.slice(0, 500)" :key="at">
            <td>
              <input
                v-model="row.is"
                class="cell-field mono"
                :class="{ wrong: message(open, `rows.${at}.is`) }"
                :aria-label="`Is ${at + 1}`"
                :title="message(open, `rows.${at}.is`)"
                @paste="paste($event, lookUps[open]!, at)"
              />
            </td>
            <td><input v-model="row.becomes" class="cell-field mono" :aria-label="`Becomes ${at + 1}`" /></td>
            <td class="remove">
              <button
                v-if="lookUps[open]!.rows.length > 1"
                type="button"
                class="quiet"
                :aria-label="`Remove row ${at + 1}`"
                @click="lookUps[open]!.rows.splice(at, 1)"
              >
                ✕
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="quiet under">
        <button type="button" class="more" @click="lookUps[open]!.rows.push({ is: '', becomes: '' })">+ another row</button>
        Two columns of a spreadsheet can be pasted into “Is”.
        <template v-if="lookUps[open]!.rows.length > 500"
          >Of {{ counted(lookUps[open]!.rows.length, 'row') }} the first 500 are shown.</template
        >
      </p>
      <div class="done">
        <v-btn @click="open = null">Done</v-btn>
        <v-btn color="break" @click="remove(open)">Remove this table</v-btn>
      </div>
    </div>
  </section>
</template>

<style scoped>
.block {
  margin-top: 16px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  min-height: 30px;
}
.part {
  padding: 3px 8px;
  border: 1px solid var(--line);
  border-radius: 5px;
  background: var(--tint);
}
.part.open {
  border-color: var(--primary);
}
.more {
  color: var(--primary);
  margin-right: 10px;
}
.panel {
  padding: 12px 16px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  margin-bottom: 8px;
}
.rows {
  max-width: 720px;
}
.remove {
  width: 24px;
}
.under {
  margin: 6px 0 0;
}
.done {
  display: flex;
  gap: 10px;
  margin-top: 10px;
}
</style>
