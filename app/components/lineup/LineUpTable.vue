<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { Path } from '~/composables/useLineUp'

/** Each path in one row: source, what is happening on the way, its tags, and where they go. */
const live = useLive()
const { lineUp } = useLineUp()
const opened = reactive(new Set<string>())
const toggle = (kind: string) => opened.delete(kind) || opened.add(kind)

const sum = (all: readonly Path[], part: (path: Path) => number | null) => all.reduce((total, path) => total + (part(path) ?? 0), 0)
const slowest = (all: readonly Path[]) => {
  const times = all.flatMap(({ answerMs }) => (answerMs === null ? [] : [answerMs]))
  return times.length > 0 ? Math.max(...times) : null
}
/** One line for all of a kind that are well. */
const groups = computed(() =>
  lineUp.value.groups.map(({ kind, all }) => ({
    kind,
    all,
    flow: all[0]!.flow!,
    title: `${all.length.toLocaleString('en-GB')} × ${all[0]!.kind || all[0]!.name}`,
    goodTags: all.every(({ tags }) => tags === null)
      ? '—'
      : `${sum(all, ({ goodTags }) => goodTags).toLocaleString('en-GB')} of ${sum(all, ({ tags }) => tags).toLocaleString('en-GB')}`,
    slowest: slowest(all),
  })),
)
</script>

<template>
  <section class="sheet lineup">
    <table class="rows">
      <thead>
        <tr>
          <th>Source</th>
          <th>Flow</th>
          <th>What is happening</th>
          <th class="number">Good tags</th>
          <th class="number">Answers in</th>
          <th>Goes to</th>
        </tr>
      </thead>
      <tbody>
        <LineUpRow v-for="path in lineUp.shown" :key="path.key" :path="path" :away="live.engineAway" />
        <template v-for="group in groups" :key="group.kind">
          <tr class="opens" @click="toggle(group.kind)">
            <td class="name">
              <button type="button" :aria-expanded="opened.has(group.kind)" @click.stop="toggle(group.kind)">
                <strong>{{ group.title }}</strong>
              </button>
            </td>
            <td><PipeGlyph :flow="group.flow" /></td>
            <td>
              {{ group.flow === 'off' ? 'All switched off' : 'All flowing' }}
              <span class="act">{{ opened.has(group.kind) ? 'Fold them' : 'Show them' }}</span>
            </td>
            <td class="number">{{ group.goodTags }}</td>
            <td class="number">{{ group.slowest === null ? '—' : `≤ ${duration(group.slowest)}` }}</td>
            <td></td>
          </tr>
          <template v-if="opened.has(group.kind)">
            <LineUpRow v-for="path in group.all" :key="path.key" :path="path" :away="live.engineAway" inside />
          </template>
        </template>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.lineup {
  overflow-x: auto;
}
.name strong {
  font-weight: 600;
}
.act {
  margin-left: 10px;
  color: var(--primary);
  font-weight: 500;
}
</style>
