<script setup lang="ts">
import type { Pane, Shows } from '#core/displays/settings'
import { useTheme } from 'vuetify'
import { duration } from '#core/text/duration'
import { useFeed } from '~/displays/feed'
import { doubtOf, namesApart, paneText } from '~/displays/words'
import { lineColour } from '~/trends/colours'
import { lineOf, type Line } from '~/trends/lines'

/** The last while of some tags. */
const props = defineProps<{ pane: Pane; shows: Shows & { kind: 'trend' } }>()
const feed = useFeed()
const theme = useTheme()
const columns = ref(400)
const { content, refused } = useFilled(
  'trend',
  () => props.pane,
  () => columns.value,
  () => Math.min(60_000, Math.max(1000, props.shows.length / columns.value)),
)
const colourOf = (named: string) => props.shows.of.indexOf(named)
const lines = computed<Line[]>(() => {
  const { pictures = [], to = 0 } = content.value ?? {}
  return pictures.map((picture) => {
    const named = props.shows.of.find((one) => feed.tagOf(one)?.id === picture.id) ?? ''
    return lineOf({ id: picture.id, colour: Math.max(0, colourOf(named)), steps: null, axis: '', hidden: false }, picture, to, 0)
  })
})
const titles = computed(() => namesApart(props.shows.of, (named) => feed.tagOf(named)))
const legend = computed(() =>
  props.shows.of.map((named, i) => {
    const tag = feed.tagOf(named)
    const title = titles.value[i]!
    const value = tag?.id ? feed.valueOf(tag.id) : undefined
    const isRecorded =
      tag?.id == null || lines.value.some(({ id, points, runs }) => id === tag.id && points.length + (runs?.length ?? 0) > 0)
    return { named, tag, title, text: paneText(value, tag), doubt: doubtOf(tag, value, feed.isAway.value), isRecorded }
  }),
)
const isDark = computed(() => theme.current.value.dark)
</script>

<template>
  <div class="trend-pane">
    <FaultNote v-if="refused && !content" :fault="refused.why" mild />
    <TrendCanvas
      v-else
      class="picture"
      :lines="lines"
      :from="content?.from ?? 0"
      :to="content?.to ?? 1"
      :cursors="[]"
      :gaps="lines.length === 1 ? lines[0]!.gaps : []"
      :is-first="lines[0]?.picture.isFirst ?? false"
      :ranges="[]"
      :words="`The last ${duration(shows.length)} of ${titles.join(', ')}`"
      still
      @wide="columns = $event"
    />
    <ul class="legend">
      <li v-for="one in legend" :key="one.named" :title="one.tag?.path || one.named">
        <i :style="{ background: lineColour(colourOf(one.named), isDark) }" />{{ one.title }}
        <strong class="number" :class="{ faint: one.doubt }">{{ one.text }}</strong> <span class="quiet">{{ one.tag?.unit }}</span>
        <span v-if="one.doubt" :class="one.doubt.isBad ? 'is-broken' : 'is-late'"> {{ one.doubt.text }}</span>
        <span v-else-if="content && !one.isRecorded" class="is-late"> not recorded</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.trend-pane {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.picture {
  flex: 1;
  min-height: 0;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  max-height: 40%;
  overflow: hidden;
}
i {
  display: inline-block;
  width: 14px;
  height: 3px;
  margin-right: 6px;
  vertical-align: middle;
}
.faint {
  opacity: 0.55;
  font-weight: 400;
}
</style>
