<script setup lang="ts">
import { dayText } from '#core/text/moment'
import { sideText } from '#core/faults/catalogue'
import type { ShownConcern } from '#shared/upkeep'

/** What somebody has to see to, the most urgent first: what it is, by when, and what to do. */
defineProps<{ concerns: readonly ShownConcern[] }>()
const route = useRoute()
const opened = ref<string | null>(null)
const toggle = (key: string) => (opened.value = opened.value === key ? null : key)
</script>

<template>
  <table class="rows">
    <thead>
      <tr>
        <th><span class="visually-hidden">Urgency</span></th>
        <th>Of what</th>
        <th>What there is to see to</th>
        <th>By</th>
        <th>Known since</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="one in concerns" :key="one.key">
        <tr class="opens" @click="toggle(one.key)">
          <td class="glyph">
            <PipeGlyph
              :flow="one.urgency === 'now' ? 'broken' : 'late'"
              :width="34"
              :text="one.urgency === 'now' ? 'at once' : 'before long'"
            />
          </td>
          <td class="about">
            <span v-if="one.place === route.path">{{ one.about }}</span>
            <NuxtLink v-else :to="one.place" @click.stop>{{ one.about }}</NuxtLink>
          </td>
          <td>
            <button type="button" :aria-expanded="opened === one.key" @click.stop="toggle(one.key)">{{ one.fault.what }}</button>
          </td>
          <td class="day">{{ one.urgency === 'now' ? 'now' : one.by === null ? '—' : dayText(one.by) }}</td>
          <td class="day quiet">{{ dayText(one.since) }}</td>
        </tr>
        <tr v-if="opened === one.key">
          <td></td>
          <td colspan="4" class="next">
            <p>{{ one.fault.next }}</p>
            <p class="quiet">
              It is {{ sideText[one.fault.side] }}. <NuxtLink v-if="one.place !== route.path" :to="one.place">Go there</NuxtLink>
            </p>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
.glyph {
  width: 44px;
}
.about,
.day {
  white-space: nowrap;
}
.rows button {
  text-align: left;
  overflow-wrap: anywhere;
}
.next p {
  margin: 0 0 4px;
}
</style>
