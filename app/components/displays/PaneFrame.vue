<script setup lang="ts">
import type { Pane } from '#core/displays/settings'
import { namedBy } from '#core/displays/names'
import { useFeed } from '~/displays/feed'
import { titleOf } from '~/displays/words'

/** One pane: what it is called, and what it shows. */
const props = defineProps<{ pane: Pane; chosen?: boolean }>()
const feed = useFeed()
const title = computed(() => props.pane.title || titleOf(props.pane.shows, (named) => feed.tagOf(named)))
/** Where more of it stands. */
const leads = computed(() => {
  const { shows } = props.pane
  const ids = namedBy(shows).flatMap((named) => feed.tagOf(named)?.id ?? [])
  if (!feed.hasPages || ids.length === 0 || shows.kind === 'table') return null
  return shows.kind === 'trend' || shows.kind === 'windows' ? `/trends?tags=${ids.join(',')}` : `/tags?tag=${ids[0]}`
})
</script>

<template>
  <section class="sheet pane" :class="{ chosen, words: pane.shows.kind === 'words' }" :aria-label="title || 'Words'">
    <h2 v-if="title" class="title">
      <NuxtLink v-if="leads" :to="leads">{{ title }}</NuxtLink>
      <template v-else>{{ title }}</template>
    </h2>
    <div class="body">
      <ValuePane v-if="pane.shows.kind === 'value'" :shows="pane.shows" />
      <StatePane v-else-if="pane.shows.kind === 'state'" :shows="pane.shows" />
      <TrendPane v-else-if="pane.shows.kind === 'trend'" :pane="pane" :shows="pane.shows" />
      <WindowsPane v-else-if="pane.shows.kind === 'windows'" :pane="pane" :shows="pane.shows" />
      <TablePane v-else-if="pane.shows.kind === 'table'" :shows="pane.shows" />
      <TroublesPane v-else-if="pane.shows.kind === 'troubles'" :pane="pane" />
      <p v-else class="text">{{ pane.shows.text || (pane.title ? '' : '…') }}</p>
    </div>
  </section>
</template>

<style scoped>
.pane {
  height: 100%;
  padding: 8px 12px 10px;
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
.pane.words {
  background: none;
  border-color: transparent;
}
.pane.chosen {
  outline: 2px solid var(--copper);
  outline-offset: -1px;
}
.title {
  margin: 0 0 4px;
  font-size: 13px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.words .title {
  font-size: 17px;
}
.title a {
  color: inherit;
  text-decoration: none;
}
.title a:hover {
  text-decoration: underline;
}
.body {
  flex: 1;
  min-height: 0;
}
.text {
  margin: 0;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
</style>
