<script setup lang="ts">
import { ageText } from '#core/text/duration'
import type { RefusedAct } from '#shared/outlets/refusedAct'

/** What clients of an outlet wanted and could not have. */
defineProps<{ acts: readonly RefusedAct[]; now: number }>()
</script>

<template>
  <section v-if="acts.length" class="sheet part">
    <h2 class="sheet-title">Refused <span class="quiet light">what clients wanted and could not have</span></h2>
    <table class="rows">
      <thead>
        <tr>
          <th>Client</th>
          <th>What</th>
          <th class="number">Times</th>
          <th>Last</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="act in acts" :key="act.client + act.text">
          <td class="mono wrap">{{ act.client }}</td>
          <td class="wrap">{{ act.text }}</td>
          <td class="number">{{ act.times }}</td>
          <td class="tight quiet">{{ ageText(now - act.at) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 14px;
  overflow-x: auto;
}
.light {
  font-weight: 400;
}
.tight {
  white-space: nowrap;
}
.wrap {
  overflow-wrap: anywhere;
}
</style>
