<script setup lang="ts">
import type { SetKind } from '#core/records/settings'
import { kindTitles } from '#core/records/words'
import type { RecordSet } from '#shared/records/recordSet'
import { blankSet } from '~/records/blank'

const route = useRoute()
const lists = useLists()
await lists.whenLoaded()
const link = computed(() => Number(route.query.link) || (lists.rowLinks[0]?.id ?? 0))
const kind = computed(() => (String(route.query.kind) in kindTitles ? (String(route.query.kind) as SetKind) : null))
const kinds = (Object.keys(kindTitles) as SetKind[]).map((one) => ({ kind: one, ...kindTitles[one] }))
const initial = computed(() => (kind.value ? blankSet(kind.value, link.value) : null))
const opened = (set: RecordSet) => navigateTo(`/records/${set.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="link ? `/links/${link}` : '/links'" class="trail">{{ link ? lists.linkName(link) : 'Links' }} ›</NuxtLink>
      <h1>{{ kind ? `New ${kindTitles[kind].title.toLowerCase()}` : 'Rows as tags: in which way?' }}</h1>
      <span class="fill" />
      <v-btn :to="link ? `/links/${link}` : '/links'">Discard</v-btn>
    </div>
    <EmptyState v-if="lists.rowLinks.length === 0" title="No database is linked yet" text="Rows become tags over a link to a SQL database.">
      <Allowed role="configure"><v-btn variant="flat" to="/links/new?kind=sql">Link a database</v-btn></Allowed>
    </EmptyState>
    <RecordSetSheet v-else-if="initial" :key="kind!" :initial="initial" :record-set="null" @saved="opened" />
    <KindChoice v-else :kinds="kinds" :path="`/records/new?link=${link}`" label="Kinds of record sets" />
  </div>
</template>
