<script setup lang="ts">
import { linkKinds, protocolOf, type LinkKind } from '#core/links/registry'
import { linkSettings } from '#shared/links/registry'
import type { Link, LinkDraft } from '#shared/links/link'

const route = useRoute()
const kind = computed(() => linkKinds.find((known) => known === route.query.kind) ?? linkKinds[0])
const blank = (of: LinkKind): LinkDraft => ({
  name: '',
  kind: of,
  on: true,
  settings: { ...linkSettings[of].parse({ host: 'none' }), host: '' },
})
const opened = (link: Link) => navigateTo(`/links/${link.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/links" class="trail">Links ›</NuxtLink>
      <h1>New {{ protocolOf(kind).title }} link</h1>
      <span class="fill" />
      <v-btn to="/links">Discard</v-btn>
    </div>
    <LinkSheet :key="kind" :kind="kind" :initial="blank(kind)" :link="null" @saved="opened" />
  </div>
</template>
