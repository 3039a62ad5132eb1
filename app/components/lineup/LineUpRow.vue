<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { Path } from '~/composables/useLineUp'

/** One path from its source to whoever uses it. */
defineProps<{ path: Path; away: boolean; inside?: boolean }>()
</script>

<template>
  <tr :data-link="path.name" :class="{ inside }">
    <td class="name">
      <NuxtLink :to="path.to"
        ><strong>{{ path.name }}</strong></NuxtLink
      >
      <span v-if="!inside" class="quiet">{{ path.kind }}</span>
    </td>
    <td><PipeGlyph :flow="path.flow ?? 'waiting'" /></td>
    <td class="happening">
      <span :class="`is-${path.flow}`">{{ path.sentence ?? (away ? 'The engine is not there' : 'Asking the engine') }}</span>
      <NuxtLink v-if="path.flow === 'broken' || path.flow === 'late'" :to="path.why" class="act">See why</NuxtLink>
      <span v-if="path.units.length" class="units">
        <span v-for="unit in path.units" :key="unit.unit" :title="unit.sentence"
          ><PipeGlyph :flow="unit.flow" :width="26" :text="`${path.part} ${unit.unit}: ${unit.flow}`" />{{ path.part }}
          {{ unit.unit }}</span
        >
      </span>
    </td>
    <td class="number">{{ path.tags === null ? '—' : `${path.goodTags} of ${path.tags}` }}</td>
    <td class="number">{{ path.answerMs === null ? '—' : duration(path.answerMs) }}</td>
    <td class="ends">
      <NuxtLink v-for="end in path.ends" :key="end.to" class="end" :to="end.to">
        <PipeGlyph :flow="end.flow" :width="26" /><span class="end-name">{{ end.name }}</span>
        <span class="quiet">{{ end.note }}</span>
      </NuxtLink>
      <span v-if="path.ends.length === 0" class="quiet">nobody yet</span>
    </td>
  </tr>
</template>

<style scoped>
.name {
  max-width: 230px;
}
.name a {
  display: block;
  color: var(--ink);
  text-decoration: none;
}
.name a:hover {
  text-decoration: underline;
}
.name strong {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.inside .name {
  padding-left: 26px;
}
.happening {
  min-width: 280px;
}
.act {
  margin-left: 10px;
  padding: 2px 8px;
  border: 1px solid var(--primary);
  border-radius: 5px;
  text-decoration: none;
  font-weight: 500;
  white-space: nowrap;
}
.units {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 4px;
  font-size: 12px;
  color: var(--quiet);
}
.units > span {
  display: flex;
  align-items: center;
  gap: 6px;
}
.ends {
  max-width: 290px;
}
.end {
  display: flex;
  align-items: center;
  gap: 6px;
  color: var(--ink);
  text-decoration: none;
}
.end .quiet {
  white-space: nowrap;
}
.end:hover .end-name {
  text-decoration: underline;
}
.end .pipe {
  flex: none;
}
</style>
