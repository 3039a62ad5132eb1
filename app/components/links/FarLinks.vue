<script setup lang="ts">
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { FarLink } from '#shared/status'

/** The links of the copy that a link is paired with: how each is, as it is told there. */
defineProps<{ links: readonly FarLink[]; partner: string }>()
const tagsText = ({ tags, goodTags }: FarLink) =>
  tags === 0 ? 'no tags' : `${counted(tags, 'tag')}, ${goodTags === tags ? 'all' : goodTags.toLocaleString('en-GB')} good`
</script>

<template>
  <section class="sheet far">
    <h2 class="sheet-title">
      Links there <span class="quiet light">of “{{ partner }}”; what each can browse is found below Links › its name › Points</span>
    </h2>
    <p v-if="links.length === 0" class="quiet">It has no links, or does not show how they are.</p>
    <div v-for="link in links" :key="link.name" class="line" :data-far-link="link.name">
      <PipeGlyph :flow="link.flow" :width="38" />
      <strong :title="link.name">{{ link.name }}</strong>
      <span class="quiet counts">{{ tagsText(link) }}{{ link.answerMs === null ? '' : ` · answers in ${duration(link.answerMs)}` }}</span>
      <span class="told">
        <span :class="`is-${link.flow}`">{{ link.sentence }}</span>
        <small v-if="link.lastError && link.lastError !== link.sentence" class="quiet">last: {{ link.lastError }}</small>
      </span>
    </div>
  </section>
</template>

<style scoped>
.far {
  margin-top: 12px;
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
.line {
  display: grid;
  grid-template-columns: 38px minmax(0, 1fr) auto;
  gap: 2px 12px;
  align-items: center;
  border-top: 1px solid var(--line-soft);
  padding: 6px 0;
}
.line strong {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
/* a sentence may be long: it has a line of its own */
.told {
  grid-column: 2 / -1;
}
.counts {
  font-size: 12px;
}
small {
  display: block;
}
p {
  margin: 2px 0 0;
}
</style>
