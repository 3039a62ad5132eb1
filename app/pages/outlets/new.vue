<script setup lang="ts">
import { outletFacts, outletFactsOf, outletKinds } from '#core/outlets/registry'
import type { Outlet } from '#shared/outlets/outlet'
import { blankOutlet, outletFaceOf } from '~/outlets/registry'

const route = useRoute()
const lists = useLists()
await lists.whenLoaded()
/** Where there is one kind only, there is nothing to choose. */
const kind = computed(() => outletKinds.find((known) => known === route.query.kind) ?? (outletKinds.length === 1 ? outletKinds[0] : null))
const opened = (outlet: Outlet) => navigateTo(`/outlets/${outlet.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/outlets" class="trail">Outlets ›</NuxtLink>
      <h1>{{ kind ? `New ${outletFactsOf(kind).title}` : 'Who is to have the values?' }}</h1>
      <span class="fill" />
      <v-btn to="/outlets">Discard</v-btn>
    </div>
    <template v-if="kind">
      <p class="quiet">{{ outletFaceOf(kind).hint }}</p>
      <OutletSheet :key="kind" :initial="blankOutlet(kind, lists.outlets, lists.siteName)" :outlet="null" @saved="opened" />
    </template>
    <KindChoice v-else :kinds="Object.values(outletFacts)" path="/outlets/new" label="Kinds of outlets" />
  </div>
</template>
