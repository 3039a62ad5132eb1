<script setup lang="ts">
import type { CallTotals } from '#shared/calls'
import { totalsText, totalText } from '~/calls/callText'

/** What each client asked since counting began, and what was asked for in vain. A press shows only that. */
const props = defineProps<{ totals: CallTotals }>()
const client = defineModel<number | undefined>('client', { required: true })
const emit = defineEmits<{ find: [text: string] }>()
const headText = computed(() => totalsText(props.totals))
const most = computed(() => Math.max(1, ...props.totals.clients.map(({ calls, told }) => calls + told)))
const choose = (id: number) => (client.value = client.value === id ? undefined : id)
</script>

<template>
  <section class="sheet part" aria-label="Clients">
    <h2 class="sheet-title">Who asks</h2>
    <p v-if="totals.clients.length" class="quiet">{{ headText }}</p>
    <p v-else class="quiet">Nobody asked anything yet.</p>
    <ul class="callers">
      <li v-for="total in totals.clients" :key="total.client.id">
        <button type="button" :aria-pressed="client === total.client.id" @click="choose(total.client.id)">
          <span class="name cut">{{ total.client.name }}</span>
          <span class="cut quiet"
            ><template v-if="total.client.as">as {{ total.client.as }}, </template><span class="mono">{{ total.client.from }}</span></span
          >
          <span class="measure" aria-hidden="true"><i :style="{ width: `${(100 * (total.calls + total.told)) / most}%` }" /></span>
          <span class="quiet">{{ totalText(total) }}</span>
          <span v-if="total.measured.failures" class="is-broken"
            >{{ total.measured.failures.toLocaleString('en-GB') }} refused or failed</span
          >
        </button>
      </li>
    </ul>
  </section>
  <section v-if="totals.vain.length" class="sheet part" aria-label="Asked for in vain">
    <h2 class="sheet-title">Asked for in vain</h2>
    <ul class="vain">
      <li v-for="item in totals.vain.slice(0, 20)" :key="`${item.client.id} ${item.what}`">
        <button type="button" :title="`Only calls about ${item.what}`" @click="emit('find', item.what)">
          <span class="times mono">{{ item.times.toLocaleString('en-GB') }} ×</span>
          <span class="mono wrap">{{ item.what }}</span>
          <span class="quiet wrap">{{ item.client.name }}: {{ item.why }}</span>
        </button>
      </li>
    </ul>
    <p v-if="totals.vain.length > 20 || totals.vainOthers" class="quiet">And others, in the saved list of calls of outcome “refused”.</p>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
  margin-bottom: 12px;
}
.part p {
  margin: 6px 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.callers button,
.vain button {
  display: grid;
  width: 100%;
  padding: 7px 8px;
  text-align: left;
  border-top: 1px solid var(--line-soft);
}
.vain button {
  grid-template-columns: 64px minmax(0, 1fr);
  column-gap: 8px;
}
.vain .times {
  text-align: right;
  grid-row: span 2;
}
button:hover,
button:focus-visible,
button[aria-pressed='true'] {
  background: var(--tint);
}
.name {
  font-weight: 500;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.wrap {
  overflow-wrap: anywhere;
}
.measure {
  height: 4px;
  margin: 4px 0 3px;
  background: var(--line-soft);
}
.measure i {
  display: block;
  height: 100%;
  min-width: 2px;
  background: var(--flow);
}
</style>
