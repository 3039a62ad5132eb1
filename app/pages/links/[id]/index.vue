<script setup lang="ts">
import { removeLink, showLink } from '#shared/api/links'
import { hasPoints, protocolOf } from '#core/links/registry'
import UnitTable from '~/components/links/UnitTable.vue'
import { linkForms } from '~/links/registry'
import { counted } from '#core/text/counted'
import type { Link, LinkDraft } from '#shared/links/link'

const route = useRoute()
const live = useLive()
const session = useSession()
const lists = useLists()
const id = computed(() => Number(route.params.id))
const link = shallowRef<Link | null>(null)
const refused = ref<Refused | null>(null)
const { asking, remove } = useRemoval('Link', '/links', () => callApi(removeLink, { params: { id: id.value }, query: { tags: 'remove' } }))
const status = computed(() => live.status?.links.find((known) => known.id === id.value) ?? null)

const partnerOf = ({ settings }: Link) => ('paired' in settings && settings.paired?.name) || 'the other copy'
const draftOf = ({ id: _id, revision: _revision, ...draft }: Link): LinkDraft => draft

const load = async () => {
  try {
    link.value = await callApi(showLink, { params: { id: id.value } })
  } catch (error) {
    refused.value = asRefused(error)
  }
}
await load()
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/links" class="trail">Links ›</NuxtLink>
      <h1>{{ link?.name ?? 'Link' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status" :class="`is-${status.flow}`">{{ status.sentence }}</span>
      <span class="fill" />
      <span v-if="link" class="head-buttons">
        <v-btn :to="`/links/${link.id}/path`">Path check</v-btn>
        <v-btn v-if="hasPoints(link.kind)" :to="`/tags?link=${link.id}`">Its tags</v-btn>
        <v-btn v-if="protocolOf(link.kind).capabilities.tap && session.can('configure')" :to="`/traffic?link=${link.id}`"
          >Its traffic</v-btn
        >
        <v-btn v-if="protocolOf(link.kind).capabilities.browse && session.can('configure')" :to="`/tags/take?link=${link.id}`"
          >Take points</v-btn
        >
        <v-btn v-if="linkForms[link.kind].program && session.can('configure')" :to="`/links/${link.id}/program`"
          >Tags from its program</v-btn
        >
        <v-btn v-if="hasPoints(link.kind) && session.can('configure')" :to="`/tags/new?link=${link.id}`">New tag</v-btn>
        <v-btn v-if="session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <RetryLine v-if="status?.nextTryAt" :link-id="id" :unit="null" :at="status.nextTryAt" />
    <LinkSheet v-if="link" :key="link.id" :kind="link.kind" :initial="draftOf(link)" :link="link" @saved="link = $event">
      <template v-if="linkForms[link.kind].first" #first
        ><component :is="linkForms[link.kind].first" :link="link" @changed="load"
      /></template>
      <template #beside
        ><component :is="linkForms[link.kind].beside ?? UnitTable" v-if="status && hasPoints(link.kind)" :link="link" :status="status" />
        <FarLinks v-if="status?.behind" :links="status.behind" :partner="partnerOf(link)" />
        <LinkRecordSets v-if="protocolOf(link.kind).capabilities.receives === 'table'" :link-id="link.id" />
        <LinkBridges :link-id="link.id" :always="!hasPoints(link.kind)" />
        <UnclaimedTopics v-if="protocolOf(link.kind).capabilities.messages" :id="link.id" of="link"
      /></template>
    </LinkSheet>
    <AskDialog
      v-model="asking"
      :title="`Remove “${link?.name}”?`"
      :yes="status?.tags ? `Remove link and ${counted(status.tags, 'tag')}` : 'Remove link'"
      no="Keep"
      grave
      @yes="remove(link!.name)"
    >
      <p v-if="status?.tags">
        {{ counted(status.tags, 'tag') }} {{ status.tags === 1 ? 'reads' : 'read' }} through it and
        {{ status.tags === 1 ? 'goes' : 'go' }} with it{{ lists.outlets.length ? ', and clients lose them' : '' }}.
      </p>
      <p>It can be taken back afterwards.</p>
    </AskDialog>
  </div>
</template>
