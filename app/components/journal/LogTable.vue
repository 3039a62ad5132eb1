<script setup lang="ts" generic="E extends { id: number; at: string; fault: Fault | null }">
import type { Fault } from '#core/faults/catalogue'
import { momentText } from '#core/text/moment'

/** What happened, newest first: one line each, which opens where there is a fault behind it. */
defineProps<{
  entries: E[]
  /** Behind the time. */
  columns: { title: string; class?: string }[]
  more: boolean
  olderTitle: string
  /** What stands there where there is nothing. */
  nothing: string
}>()
defineEmits<{ older: [] }>()
defineSlots<{ default(props: { entry: E }): unknown }>()

const opened = ref<number | null>(null)
const toggle = ({ id }: E) => (opened.value = opened.value === id ? null : id)
</script>

<template>
  <section class="sheet">
    <table class="rows">
      <thead>
        <tr>
          <th class="when">When</th>
          <th v-for="column in columns" :key="column.title" :class="column.class">{{ column.title }}</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="entry in entries" :key="entry.id">
          <tr :class="{ opens: entry.fault }" @click="toggle(entry)">
            <td class="mono when">
              <button v-if="entry.fault" type="button" :aria-expanded="opened === entry.id" @click.stop="toggle(entry)">
                {{ momentText(entry.at) }}
              </button>
              <template v-else>{{ momentText(entry.at) }}</template>
            </td>
            <slot :entry="entry" />
          </tr>
          <tr v-if="opened === entry.id && entry.fault">
            <td :colspan="columns.length + 1"><FaultNote :fault="entry.fault" mild /></td>
          </tr>
        </template>
        <tr v-if="entries.length === 0">
          <td :colspan="columns.length + 1" class="quiet">{{ nothing }}</td>
        </tr>
      </tbody>
    </table>
  </section>
  <v-btn v-if="more && entries.length > 0" class="older" @click="$emit('older')">{{ olderTitle }}</v-btn>
</template>

<style scoped>
.when {
  white-space: nowrap;
  width: 190px;
}
.older {
  margin-top: 12px;
}
</style>
