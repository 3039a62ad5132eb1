<script setup lang="ts">
import type { Shows } from '#core/displays/settings'
import { useFeed } from '~/displays/feed'
import { doubtOf, paneText } from '~/displays/words'

/** What a machine does, as a stretch of pipe and in words. */
const props = defineProps<{ shows: Shows & { kind: 'state' } }>()
const feed = useFeed()
const tag = computed(() => feed.tagOf(props.shows.of))
const value = computed(() => (tag.value?.id ? feed.valueOf(tag.value.id) : undefined))
const doubt = computed(() => doubtOf(tag.value, value.value, feed.isAway.value))
const text = computed(() => paneText(value.value, tag.value))
const mark = computed(() => {
  const plain = String(value.value?.value)
  return props.shows.marks.find(({ is }) => is === plain || is === text.value) ?? null
})
const flow = computed(() => (doubt.value || !value.value ? 'waiting' : (mark.value?.mark ?? 'flowing')))
</script>

<template>
  <div class="state-pane">
    <PipeGlyph :flow="flow" :width="120" class="glyph" />
    <p class="text" :class="doubt ? 'quiet' : `is-${flow}`">{{ mark?.text || text }}</p>
    <p v-if="doubt" :class="doubt.isBad ? 'is-broken' : 'is-late'">{{ doubt.text }}</p>
  </div>
</template>

<style scoped>
.state-pane {
  container-type: size;
  height: 100%;
  display: flex;
  flex-direction: column;
  justify-content: center;
  overflow: hidden;
}
p {
  margin: 4px 0 0;
}
.glyph {
  width: auto;
  align-self: flex-start;
  height: clamp(14px, min(24cqh, 10cqw), 60px);
}
.text {
  font-size: clamp(14px, min(28cqh, 12cqw), 80px);
  line-height: 1.1;
  font-weight: 600;
}
</style>
