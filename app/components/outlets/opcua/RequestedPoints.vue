<script setup lang="ts">
import { ageText, wholeSeconds } from '#core/text/duration'
import { isGood, qualityText } from '#core/tags/quality'
import type { OpcuaServerDetails } from '#shared/outlets/opcuaServerStatus'

/** Points that clients named themselves, and what they could not have. */
defineProps<{ requested: OpcuaServerDetails['onRequest']; now: number }>()
</script>

<template>
  <section class="sheet part">
    <h2 class="sheet-title">On request <span class="quiet light">points that no tag covers, named by clients</span></h2>
    <table v-if="requested.points.length + requested.refused.length" class="rows">
      <thead>
        <tr>
          <th>Flow</th>
          <th>Asked for</th>
          <th>By</th>
          <th>What came of it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in requested.refused" :key="`${one.client} ${one.text}`">
          <td><PipeGlyph flow="broken" :width="38" /></td>
          <td class="mono">{{ one.text }}</td>
          <td>{{ one.client }}</td>
          <td class="is-broken">
            {{ one.problem }} <span class="quiet">({{ one.times }} ×, last {{ ageText(now - one.lastAt) }})</span>
          </td>
        </tr>
        <tr v-for="one in requested.points" :key="one.text">
          <td><PipeGlyph :flow="isGood(one.quality) ? 'flowing' : 'late'" :width="38" /></td>
          <td class="mono">{{ one.text }}</td>
          <td>{{ one.client }}</td>
          <td class="quiet">
            read since {{ wholeSeconds(now - one.at) }}<template v-if="!isGood(one.quality)">: {{ qualityText(one.quality) }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">Nobody has asked for one yet.</p>
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
p {
  margin: 8px 0 0;
}
</style>
