<script setup lang="ts">
import { linkKinds, protocolOf, protocols, type LinkKind } from '#core/links/registry'
import { plainLink, type Link, type LinkDraft } from '#shared/links/link'
import { linkForms } from '~/links/registry'

const route = useRoute()
const kind = computed(() => linkKinds.find((known) => known === route.query.kind) ?? null)
const blank = (of: LinkKind): LinkDraft => ({ ...plainLink, name: '', kind: of, settings: linkForms[of].blank() })
const opened = (link: Link) => navigateTo(`/links/${link.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/links" class="trail">Links ›</NuxtLink>
      <h1>{{ kind ? `New ${protocolOf(kind).title} link` : 'What do you want to connect?' }}</h1>
      <span class="fill" />
      <v-btn to="/links">Discard</v-btn>
    </div>
    <LinkSheet v-if="kind" :key="kind" :kind="kind" :initial="blank(kind)" :link="null" @saved="opened" />
    <KindChoice v-else :kinds="Object.values(protocols)" path="/links/new" label="Protocols" />
  </div>
</template>
