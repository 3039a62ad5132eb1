<script setup lang="ts">
import { counted } from '#core/text/counted'
import type { ClientCall } from '#shared/calls'
import { callsPart } from '#core/calls/written'

/** One call, item by item. */
const props = defineProps<{ call: ClientCall }>()
const { copied, copy } = useCopy()
const isOdd = computed(() => props.call.outcome !== 'well')
const worst = computed(() => props.call.items.find(({ refused }) => refused)?.status || props.call.status)
</script>

<template>
  <div class="opened">
    <p class="quiet">
      Call {{ call.n.toLocaleString('en-GB') }}, {{ call.service }}, of {{ call.client.name
      }}<template v-if="call.client.as"> as {{ call.client.as }}</template> from <span class="mono">{{ call.client.from }}</span>:
      {{ call.status }}
      <NuxtLink v-if="isOdd" class="why" :to="{ path: '/journal/codes', query: { text: worst } }">Why, and what to do</NuxtLink>
      <v-btn class="copy" height="24" @click="copy(callsPart('text', [call]))">{{ copied ? 'Copied' : 'Copy' }}</v-btn>
    </p>
    <table v-if="call.items.length" class="items">
      <thead>
        <tr>
          <th class="item">Item</th>
          <th>Value</th>
          <th class="status">Status</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(item, i) in call.items" :key="i">
          <td class="mono">{{ item.what }}</td>
          <td class="mono">{{ item.value ?? '—' }}</td>
          <td :class="{ 'is-broken': item.refused }">{{ item.status || '—' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="call.more" class="quiet">{{ counted(call.more, 'more item') }}.</p>
  </div>
</template>

<style scoped>
.opened p {
  margin: 0 0 6px;
}
.why,
.copy {
  margin-left: 10px;
}
.items {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
}
.items .item {
  width: 48%;
}
.items .status {
  width: 22%;
}
.items th {
  text-align: left;
  font-weight: 500;
  color: var(--quiet);
}
.items th,
.items td {
  padding: 3px 14px 3px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
}
</style>
