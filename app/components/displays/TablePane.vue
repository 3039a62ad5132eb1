<script setup lang="ts">
import type { Shows } from '#core/displays/settings'
import { useFeed } from '~/displays/feed'
import { doubtOf, paneText } from '~/displays/words'

/** Many values, line by line. */
const props = defineProps<{ shows: Shows & { kind: 'table' } }>()
const feed = useFeed()
const rows = computed(() =>
  props.shows.of.map((named) => {
    const tag = feed.tagOf(named)
    const value = tag?.id ? feed.valueOf(tag.id) : undefined
    return { named, tag, text: paneText(value, tag), doubt: doubtOf(tag, value, feed.isAway.value) }
  }),
)
</script>

<template>
  <div class="table-pane" tabindex="0">
    <table class="rows">
      <thead class="visually-hidden">
        <tr>
          <th>What</th>
          <th>Value</th>
          <th>Unit</th>
          <th>Quality</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.named">
          <td class="cut" :title="row.tag?.path || row.named">
            <NuxtLink v-if="feed.hasPages && row.tag?.id" :to="`/tags?tag=${row.tag.id}`">{{ row.tag.title }}</NuxtLink>
            <template v-else>{{ row.tag?.title ?? row.named }}</template>
          </td>
          <td class="number" :class="{ faint: row.doubt }">
            <strong>{{ row.text }}</strong>
          </td>
          <td class="quiet">{{ row.tag?.unit }}</td>
          <td :class="row.doubt?.isBad ? 'is-broken' : 'is-late'">{{ row.doubt?.text }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.table-pane {
  height: 100%;
  overflow: auto;
}
.cut {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.faint {
  opacity: 0.55;
}
</style>
