<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { listDeeds } from '#shared/api/journal'
import { deedKinds, type DeedKind } from '#shared/deeds'

/** What people did besides changes of the configuration and writes. */
const kinds = [{ value: null, title: 'everything' }, ...deedKinds.map((kind) => ({ value: kind, title: kind }))]
const kind = ref<DeedKind | null>(null)
const find = ref('')
const settledFind = refDebounced(find, 250)
const { entries, more, refused, older } = useLog(listDeeds, () => ({ kind: kind.value, find: settledFind.value }))
const rows = computed(() => entries.value.map((deed) => ({ ...deed, fault: null })))
const columns = [{ title: 'Who', class: 'who' }, { title: 'From', class: 'place' }, { title: 'Did', class: 'kind' }, { title: 'What' }]
const nothing = computed(() => `Nothing was done${kind.value || settledFind.value ? ' that fits this filter' : ' yet'}.`)
</script>

<template>
  <div class="page">
    <JournalHead>
      <v-text-field
        v-model="find"
        data-filter
        class="filter"
        placeholder="Filter by name or address"
        aria-label="Filter by name or address"
        clearable
      />
      <v-select v-model="kind" class="kinds" :items="kinds" aria-label="What was done" />
      <span class="fill" />
      <span class="quiet">Changes of the configuration stand under Site, writes beside this.</span>
    </JournalHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <LogTable v-slot="{ entry }" :entries="rows" :columns :more older-title="Older deeds" :nothing @older="older">
      <td class="wrap">{{ entry.who }}</td>
      <td class="mono">{{ entry.place }}</td>
      <td :class="{ 'is-broken': !entry.ok }">{{ entry.kind }}</td>
      <td class="wrap">{{ entry.what }}</td>
    </LogTable>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
.kinds {
  max-width: 160px;
}
.wrap {
  overflow-wrap: anywhere;
}
:deep(th.who) {
  width: 200px;
}
:deep(th.place),
:deep(th.kind) {
  width: 140px;
}
</style>
