<script setup lang="ts">
import type { Shows } from '#core/displays/settings'
import { useFeed } from '~/displays/feed'
import { doubtOf, namesApart, paneText } from '~/displays/words'

/** Many values, line by line. */
const props = defineProps<{ shows: Shows & { kind: 'table' } }>()
const feed = useFeed()
const titles = computed(() => namesApart(props.shows.of, (named) => feed.tagOf(named)))
const rows = computed(() =>
  props.shows.of.map((named, i) => {
    const tag = feed.tagOf(named)
    const value = tag?.id ? feed.valueOf(tag.id) : undefined
    return { named, tag, title: titles.value[i]!, text: paneText(value, tag), doubt: doubtOf(tag, value, feed.isAway.value) }
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
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.named">
          <td class="cut" :title="row.tag?.path || row.named">
            <NuxtLink v-if="feed.hasPages && row.tag?.id" :to="`/tags?tag=${row.tag.id}`">{{ row.title }}</NuxtLink>
            <template v-else>{{ row.title }}</template>
            <span v-if="row.doubt" class="doubt" :class="row.doubt.isBad ? 'is-broken' : 'is-late'">{{ row.doubt.text }}</span>
          </td>
          <td class="number" :class="{ faint: row.doubt }">
            <strong>{{ row.text }}</strong>
          </td>
          <td class="quiet unit">{{ row.tag?.unit }}</td>
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
table {
  table-layout: fixed;
  width: 100%;
}
td.number {
  width: 38%;
  overflow: hidden;
  text-overflow: ellipsis;
}
td.unit {
  width: 56px;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.doubt {
  display: block;
  font-size: 12px;
}
.faint {
  opacity: 0.55;
}
</style>
