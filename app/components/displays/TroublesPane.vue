<script setup lang="ts">
import type { Pane } from '#core/displays/settings'
import { ageText } from '#core/text/duration'
import { useFeed } from '~/displays/feed'

/** What is not well, the worst first. */
const props = defineProps<{ pane: Pane }>()
const feed = useFeed()
const { content, refused } = useFilled(
  'troubles',
  () => props.pane,
  () => 100,
  () => 2000,
)
const classes = { trouble: 'is-broken', caution: 'is-late', note: 'quiet' } as const
const flows = { trouble: 'broken', caution: 'late', note: 'late' } as const
</script>

<template>
  <div class="troubles-pane" :class="{ still: !feed.hasPages }" :tabindex="feed.hasPages ? 0 : undefined">
    <p v-if="refused" class="is-broken">{{ refused.why.what }}</p>
    <p v-else-if="content && content.total === 0" class="well"><PipeGlyph flow="flowing" :width="60" /> Nothing is in trouble.</p>
    <ul v-else-if="content">
      <li v-for="(one, i) in content.items" :key="i">
        <PipeGlyph :flow="flows[one.severity]" :width="34" class="glyph" />
        <span class="what">
          <NuxtLink v-if="feed.hasPages" :to="one.to">{{ one.title }}</NuxtLink>
          <strong v-else>{{ one.title }}</strong>
          <span class="text" :class="classes[one.severity]">{{ one.text }}</span>
        </span>
        <span v-if="one.since" class="quiet age">{{ ageText(feed.now.value - one.since) }}</span>
      </li>
    </ul>
    <p v-if="content && content.total > content.items.length" class="quiet">
      and {{ (content.total - content.items.length).toLocaleString('en-GB') }} more
    </p>
  </div>
</template>

<style scoped>
.troubles-pane {
  height: 100%;
  overflow: auto;
}
/* nobody scrolls on a wall */
.still {
  overflow: hidden;
}
p {
  margin: 0;
}
.well {
  display: flex;
  align-items: center;
  gap: 12px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}
li:first-child {
  border-top: 0;
}
.glyph {
  align-self: center;
}
.what {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
.text {
  margin-left: 6px;
}
.age {
  white-space: nowrap;
}
</style>
