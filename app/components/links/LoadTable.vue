<script setup lang="ts">
import type { LinkLoad, PartLoad, RoundLoad } from '#core/links/load'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { LoadChange } from '#shared/load'

/** What reading its tags asks of a link, round by round; what would change stands beside what is. */
const props = defineProps<{ change: LoadChange; title: string; part: string; brief?: boolean }>()

interface Row {
  key: string
  where: string
  now: RoundLoad | null
  then: RoundLoad | null
}
const keyed = ({ parts }: LinkLoad) =>
  new Map(
    parts.flatMap(({ unit, rounds }) =>
      rounds.map((round): [string, [PartLoad['unit'], RoundLoad]] => [`${unit}/${round.interval}`, [unit, round]]),
    ),
  )
const rows = computed(() => {
  const [now, then] = [keyed(props.change.now), keyed(props.change.then)]
  const all = [...new Set([...then.keys(), ...now.keys()])].map((key): Row => {
    const [unit, { interval }] = (then.get(key) ?? now.get(key))!
    const where = `${unit === null ? '' : `${props.part} ${unit}, `}every ${duration(interval)}`
    return { key, where, now: now.get(key)?.[1] ?? null, then: then.get(key)?.[1] ?? null }
  })
  return props.brief ? all.filter((row) => text(row.now) !== text(row.then)) : all
})
/** No requests of ours fetch values: they come, or what is asked has a name of its own. */
const isWatched = computed(() => props.change.then.parts.every(({ rounds }) => rounds.every(({ requests }) => requests === 0)))
const text = (round: RoundLoad | null) => {
  if (!round) return 'nothing'
  if (isWatched.value) return `${counted(round.tags, 'tag')} on ${counted(round.carried, props.change.then.of ?? 'watched node')}`
  return `${counted(round.requests, 'request')}${round.ms === null ? '' : `, ${duration(round.ms)}`}`
}
const isLate = ({ then }: Row) => then !== null && then.ms !== null && then.ms > then.interval
const percent = (share: number | null) => (share === null ? null : `${Math.round(share * 100)} %`)
const slowest = (load: LinkLoad) =>
  load.parts.reduce<PartLoad | null>((worst, part) => ((part.fastest ?? 0) > (worst?.fastest ?? 0) ? part : worst), null)
const read = (load: LinkLoad) => {
  const rounds = load.parts.flatMap((part) => part.rounds)
  const [carried, wanted] = [rounds.reduce((sum, round) => sum + round.carried, 0), rounds.reduce((sum, round) => sum + round.wanted, 0)]
  return carried === 0 || isWatched.value
    ? null
    : `${counted(carried, 'element')} a round, ${Math.round((100 * wanted) / carried)} % of them wanted`
}
</script>

<template>
  <section class="load">
    <h2 class="sheet-title">{{ title }}</h2>
    <p v-if="rows.length === 0" class="quiet">{{ brief ? 'Its rounds stay as they are.' : 'No tag reads through this link.' }}</p>
    <div v-for="row in rows" :key="row.key" class="line">
      <span class="quiet">{{ row.where }}</span>
      <span :class="{ 'is-late': isLate(row) }">
        <template v-if="text(row.now) !== text(row.then)"
          ><s class="quiet">{{ text(row.now) }}</s> {{ text(row.then) }}</template
        >
        <template v-else>{{ text(row.then) }}</template>
        <template v-if="isLate(row)"> · longer than its interval</template>
      </span>
    </div>
    <p v-if="change.then.busy !== null && rows.length > 0" class="sum" :class="{ 'is-late': change.then.busy > 1 }">
      The busiest connection works
      <template v-if="percent(change.now.busy) !== percent(change.then.busy)"
        ><s class="quiet">{{ percent(change.now.busy) }}</s> </template
      >{{ percent(change.then.busy) }} of the time<template v-if="slowest(change.then)">
        · a round of all tags{{ slowest(change.then)!.unit === null ? '' : ` of ${part} ${slowest(change.then)!.unit}` }} takes
        {{ duration(slowest(change.then)!.fastest!) }}</template
      >
    </p>
    <p v-else-if="rows.length > 0 && !isWatched" class="quiet sum">How long it takes shows once the far side answered.</p>
    <template v-if="!brief">
      <p v-if="read(change.then)" class="quiet sum">{{ read(change.then) }}</p>
      <details v-if="change.then.costly.length > 0" class="costly">
        <summary>Tags that cost most</summary>
        <p v-for="tag in change.then.costly" :key="tag.path" class="line">
          <span class="mono path" :title="tag.path">{{ tag.path }}</span>
          <span class="quiet"
            >{{ duration(tag.cost) }} of each second,
            {{ tag.sharedWith === 0 ? 'alone in a request' : `with ${tag.sharedWith} more in a request` }} every
            {{ duration(tag.interval) }}</span
          >
        </p>
      </details>
    </template>
  </section>
</template>

<style scoped>
.load {
  font-size: 12px;
}
.line {
  display: grid;
  grid-template-columns: minmax(120px, 1fr) minmax(160px, 2fr);
  gap: 10px;
  margin: 2px 0;
}
.sum {
  margin: 4px 0 0;
}
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.costly {
  margin-top: 6px;
}
summary {
  cursor: pointer;
}
</style>
