<script setup lang="ts">
import type { Flow } from '#shared/flow'

export interface ThingColumn {
  title: string
  /** How its cells are set: words, a place to copy, or a number. */
  as?: 'mono' | 'number'
}
export interface ThingRow {
  path: string
  name: string
  flow: Flow | null
  sentence: string | null
  /** One text for each column; null: not known. */
  cells: (string | number | null)[]
}

/** Links, outlets and whatever else flows: each with what is happening, and the way to it. */
defineProps<{ label: string; columns: readonly ThingColumn[]; rows: readonly ThingRow[]; nothing: string }>()
</script>

<template>
  <section class="sheet list">
    <table class="rows" :aria-label="label">
      <thead>
        <tr>
          <th>Name</th>
          <th>Flow</th>
          <th>What is happening</th>
          <th v-for="column in columns" :key="column.title" :class="{ number: column.as === 'number' }">{{ column.title }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="row in rows"
          :key="row.path"
          class="opens"
          tabindex="0"
          @click="navigateTo(row.path)"
          @keydown.enter="navigateTo(row.path)"
        >
          <td class="name">
            <strong>{{ row.name }}</strong>
          </td>
          <td><PipeGlyph :flow="row.flow ?? 'waiting'" /></td>
          <td :class="`is-${row.flow}`">{{ row.sentence ?? 'The engine is not there' }}</td>
          <td v-for="(cell, i) in row.cells" :key="i" :class="columns[i]?.as">{{ cell ?? '—' }}</td>
        </tr>
        <tr v-if="rows.length === 0">
          <td :colspan="3 + columns.length" class="quiet">{{ nothing }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.list {
  overflow-x: auto;
}
strong {
  font-weight: 600;
}
.name {
  max-width: 320px;
  overflow-wrap: anywhere;
}
td.mono {
  overflow-wrap: anywhere;
}
</style>
