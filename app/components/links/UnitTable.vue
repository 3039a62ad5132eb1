<script setup lang="ts">
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { Link } from '#shared/links/link'
import type { LinkStatus, UnitStatus } from '#shared/status'

/** How each unit of a link is doing: its state in words, its rounds, and what was counted. */
defineProps<{ link: Link; status: LinkStatus }>()

/** What the most frequent round needs; asking more often than that only makes it late. */
const fastest = ({ rounds: [first] }: UnitStatus) => (first ? Math.max(first.predictedMs ?? 0, first.measuredMs ?? 0) : 0)
</script>

<template>
  <section class="sheet units">
    <h2 class="sheet-title">{{ status.units?.length ? (status.units.some(({ title }) => title) ? 'Devices' : 'Units') : 'Tags' }}</h2>
    <p v-if="status.tags === 0" class="quiet">No tag reads through this link yet.</p>
    <p v-else-if="!status.units?.length" class="quiet">
      {{ counted(status.tags, 'tag') }} {{ status.tags === 1 ? 'reads' : 'read' }} through this link,
      {{ status.goodTags === status.tags ? 'all' : status.goodTags.toLocaleString('en-GB') }} of them good.
    </p>
    <RefusedPoints v-if="status.refused?.length" :points="status.refused" :count="status.refused.length" />
    <div v-for="unit in status.units" :key="unit.unit" class="unit">
      <div class="line">
        <strong :title="unit.title">{{ unit.title ?? `Unit ${unit.unit}` }}</strong>
        <PipeGlyph :flow="unit.flow" :width="38" />
        <span :class="`is-${unit.flow}`">{{
          unit.flow === 'flowing' && unit.answerMs !== null ? `answers in ${duration(unit.answerMs)}` : unit.sentence
        }}</span>
      </div>
      <RetryLine v-if="unit.leftOutUntil !== null" :link-id="link.id" :unit="unit.unit" :at="unit.leftOutUntil" />
      <p v-for="round in unit.rounds" :key="round.interval" class="quiet round">
        {{ counted(round.points, 'tag') }} every {{ duration(round.interval) }} make
        <strong>{{ round.requests }} {{ round.requests === 1 ? 'request' : 'requests' }}</strong
        >{{ round.predictedMs === null ? '' : ` · predicted ${duration(round.predictedMs)}`
        }}{{ round.measuredMs === null ? '' : ` · measured ${duration(round.measuredMs)}` }}
      </p>
      <p class="quiet counts">
        {{ unit.requests.toLocaleString('en-GB') }} requests · {{ unit.failures }} failed · {{ unit.lateReplies }} late and
        {{ unit.foreignReplies }} foreign replies dropped{{
          fastest(unit) ? ` · the fastest interval it can hold is about ${duration(fastest(unit))}` : ''
        }}
      </p>
      <RefusedPoints v-if="unit.refused.length" :points="unit.refused" :count="unit.refusedCount" />
      <p v-if="unit.lastFault && unit.flow !== 'flowing'" class="last">{{ unit.lastFault.what }} {{ unit.lastFault.next }}</p>
    </div>
  </section>
</template>

<style scoped>
.units {
  margin-top: 12px;
  padding: 12px 16px;
}
.unit {
  border-top: 1px solid var(--line-soft);
  padding: 8px 0;
}
.line {
  display: grid;
  grid-template-columns: 76px 38px 1fr;
  gap: 12px;
  align-items: center;
}
p {
  margin: 2px 0 0;
  font-size: 12px;
}
.round strong {
  color: var(--ink);
  font-weight: 600;
}
.last {
  color: var(--ink);
}
</style>
