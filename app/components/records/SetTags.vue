<script setup lang="ts">
import { qualityText, severityOf } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import { counted } from '#core/text/counted'
import type { RecordSetPreview } from '#shared/records/recordSet'

/** The tags that a set makes; of a saved one with what they have now. */
const props = defineProps<{ preview: RecordSetPreview; folder: string; isSaved: boolean }>()
const most = 60
const shown = computed(() => props.preview.tags.slice(0, most))
const { valueOf } = useTagsByPath('set', () => (props.isSaved ? shown.value.map(({ path }) => path) : []))
const local = (path: string) => (path.startsWith(`${props.folder}/`) ? path.slice(props.folder.length + 1) : path)
const may = (tag: RecordSetPreview['tags'][number]) => {
  if (tag.access === 'read') return 'read'
  return tag.part === 'value' || tag.part === 'parameter' || tag.part === 'number' || tag.part === 'key' ? 'read, write' : 'write true'
}
const rows = computed(() =>
  shown.value.map((tag) => {
    const live = valueOf(tag.path)
    return {
      ...tag,
      local: local(tag.path),
      may: may(tag),
      now: live ? valueText(live.value, tag.type) : '—',
      quality: live ? qualityText(live.quality) : '—',
      severity: live ? severityOf(live.quality) : null,
      told: tag.part === 'value' || tag.part === 'parameter' ? tag.note : tag.description,
    }
  }),
)
</script>

<template>
  <section class="sheet tags" aria-label="Tags of the set">
    <h2 class="head">
      <strong>{{ isSaved ? 'Its' : 'Becomes' }} {{ counted(preview.tagCount, 'tag') }}</strong> below
      <span class="mono">{{ folder || '…' }}</span> <span class="quiet">all of one set change in the same instant, the stamp last</span>
    </h2>
    <div class="wide">
      <table class="rows" aria-label="Tags">
        <thead>
          <tr>
            <th>Tag</th>
            <th>Type</th>
            <th v-if="isSaved" class="number">Now</th>
            <th v-if="isSaved">Quality</th>
            <th>Consumers may</th>
            <th>Note</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.path">
            <td class="mono name" :title="row.path">{{ row.local }}</td>
            <td class="mono">{{ row.type }}</td>
            <td v-if="isSaved" class="mono number value" :title="row.now">{{ row.now }}</td>
            <td v-if="isSaved" :class="{ 'is-broken': row.severity === 'bad', 'is-late': row.severity === 'uncertain' }">
              {{ row.quality }}
            </td>
            <td>{{ row.may }}</td>
            <td :class="row.part === 'value' || row.part === 'parameter' ? 'is-late' : 'quiet'">{{ row.told }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="preview.tagCount > rows.length" class="quiet more">
      and {{ (preview.tagCount - rows.length).toLocaleString('en-GB') }} more.
      <NuxtLink v-if="isSaved" :to="`/tags?below=${encodeURIComponent(folder)}`">All of them</NuxtLink>
    </p>
  </section>
</template>

<style scoped>
.tags {
  margin-top: 12px;
}
.head {
  margin: 0;
  padding: 9px 12px;
  font-size: 13px;
  font-weight: 400;
}
.head strong {
  font-weight: 600;
}
.wide {
  overflow-x: auto;
}
.name,
.value {
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.more {
  margin: 0;
  padding: 8px 12px 10px;
}
</style>
