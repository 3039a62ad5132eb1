<script setup lang="ts">
import { clockText } from '#core/text/moment'
import { duration } from '#core/text/duration'
import { aboutText, refusedText } from '~/calls/callText'
import type { ShownCall } from '~/composables/useCalls'

/** Calls, the newest first: a line each, which opens to what it was about, item by item. */
defineProps<{ calls: readonly ShownCall[]; nothing: string }>()
const emit = defineEmits<{ only: [client: number] }>()
const opened = ref<number | null>(null)
const toggle = (n: number) => (opened.value = opened.value === n ? null : n)
const outcomeClass = { well: '', partly: 'is-late', refused: 'is-broken' } as const
</script>

<template>
  <table class="rows">
    <thead>
      <tr>
        <th class="when">When</th>
        <th class="who">Who</th>
        <th>Asked or was told</th>
        <th class="said">Answer</th>
        <th class="number took">Took</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="call in calls" :key="call.n">
        <tr class="opens" :class="{ told: call.isTold }" @click="toggle(call.n)">
          <td class="mono when">
            <button type="button" :aria-expanded="opened === call.n" @click.stop="toggle(call.n)">{{ clockText(call.at) }}</button>
          </td>
          <td class="who">
            <button type="button" class="cut plain" :title="`Only calls of ${call.client.name}`" @click.stop="emit('only', call.client.id)">
              {{ call.client.name }}
            </button>
          </td>
          <td>
            <span class="cut"
              ><strong>{{ call.isTold ? 'told' : call.service }}</strong> {{ aboutText(call) }}</span
            >
          </td>
          <td class="said">
            <span class="cut" :class="outcomeClass[call.outcome]" :title="call.status">{{ refusedText(call) || call.status }}</span>
          </td>
          <td class="number mono took">{{ call.ms === null ? '' : duration(call.ms) }}</td>
        </tr>
        <tr v-if="opened === call.n">
          <td colspan="5" class="inside"><CallOpened :call="call" /></td>
        </tr>
        <tr v-if="call.hasGap">
          <td colspan="5" class="is-late">More calls came here than the page takes in a second. Hold it, or filter.</td>
        </tr>
      </template>
      <tr v-if="calls.length === 0">
        <td colspan="5" class="quiet">{{ nothing }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table.rows {
  table-layout: fixed;
}
.when {
  width: 128px;
  white-space: nowrap;
}
.who {
  width: 150px;
}
.said {
  width: 170px;
}
.took {
  width: 78px;
}
.cut {
  display: block;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  text-align: left;
}
.cut strong {
  font-weight: 500;
}
.plain:hover,
.plain:focus-visible {
  text-decoration: underline;
}
.told .cut {
  color: var(--quiet);
}
.inside {
  background: var(--tint);
}
</style>
