<script setup lang="ts">
import type { Shows } from '#core/displays/settings'
import { valueText } from '#core/text/number'
import { useFeed } from '~/displays/feed'
import { doubtOf, paneText } from '~/displays/words'

/** One value, as large as its pane allows, and below it how full that is. */
const props = defineProps<{ shows: Shows & { kind: 'value' } }>()
const feed = useFeed()
const tag = computed(() => feed.tagOf(props.shows.of))
const value = computed(() => (tag.value?.id ? feed.valueOf(tag.value.id) : undefined))
const doubt = computed(() => doubtOf(tag.value, value.value, feed.isAway.value))
const text = computed(() => paneText(value.value, tag.value, props.shows.decimals))
const share = computed(() => {
  const { scale } = props.shows
  const number = typeof value.value?.value === 'number' ? value.value.value : NaN
  return scale && Number.isFinite(number) ? Math.min(1, Math.max(0, (number - scale.low) / (scale.high - scale.low))) : null
})
</script>

<template>
  <div class="value-pane" :class="{ doubtful: doubt, bad: doubt?.isBad }">
    <p class="line">
      <strong class="number">{{ text }}</strong> <span class="unit">{{ tag?.unit }}</span>
    </p>
    <div
      v-if="shows.scale && !doubt?.isBad"
      class="pipe"
      role="meter"
      :aria-valuemin="shows.scale.low"
      :aria-valuemax="shows.scale.high"
      :aria-valuenow="typeof value?.value === 'number' ? value.value : shows.scale.low"
      :aria-label="text"
    >
      <span v-if="share !== null" class="fill" :style="{ width: `${share * 100}%` }" />
    </div>
    <p v-if="shows.scale && !doubt" class="ends quiet">
      <span>{{ valueText(shows.scale.low) }}</span><span>{{ valueText(shows.scale.high) }}</span>
    </p>
    <p v-if="doubt" class="doubt">{{ doubt.text }}</p>
  </div>
</template>

<style scoped>
.value-pane {
  container-type: size;
  height: 100%;
  display: flex;
  flex-direction: column;
  justify-content: center;
  overflow: hidden;
}
p {
  margin: 0;
}
.line {
  white-space: nowrap;
  line-height: 1.1;
}
strong {
  font-size: clamp(15px, min(46cqh, 17cqw), 160px);
  font-weight: 600;
}
.unit {
  font-size: clamp(12px, min(18cqh, 8cqw), 48px);
  color: var(--quiet);
}
.doubtful strong {
  font-weight: 300;
}
.bad strong {
  opacity: 0.6;
}
.doubt {
  color: var(--copper);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bad .doubt {
  color: var(--break);
}
.pipe {
  height: 8px;
  margin-top: 6px;
  border-block: 2px solid var(--capped);
  background: var(--line-soft);
}
.fill {
  display: block;
  height: 100%;
  background: var(--flow);
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
}
</style>
