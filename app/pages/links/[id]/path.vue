<script setup lang="ts">
import { hasPoints, protocolOf } from '#core/links/registry'
import { placeOf } from '#shared/links/link'

/** The way to the far side of one link. */
const id = Number(useRoute().params.id)
const lists = useLists()
const live = useLive()
const session = useSession()
await lists.whenLoaded()
const link = computed(() => lists.links.find((one) => one.id === id) ?? null)
const status = computed(() => live.status?.links.find((one) => one.id === id) ?? null)
const outlets = computed(() => (live.status?.outlets ?? []).filter(({ feeds }) => feeds.links.includes(id)))
const outletName = (outlet: number) => lists.outlets.find((one) => one.id === outlet)?.name ?? 'Outlet'
const trail = computed(() => [
  { to: '/links', text: 'Links' },
  { to: `/links/${id}`, text: link.value?.name ?? 'Link' },
])
</script>

<template>
  <PathView :id="id" of="link" :flow="status?.flow ?? null" :sentence="status?.sentence ?? ''" :trail="trail">
    <template #buttons>
      <v-btn :to="`/links/${id}`">{{ session.can('configure') ? 'Edit the link' : 'The link' }}</v-btn>
      <v-btn v-if="link && protocolOf(link.kind).capabilities.tap && session.can('configure')" :to="`/traffic?link=${id}`"
        >Its traffic</v-btn
      >
    </template>
    <template #side>
      <WhoseSide
        v-if="status && link"
        :far="placeOf(link)"
        :link="status"
        :reads="!hasPoints(link.kind) || status.tags > 0"
        :outlets="outlets"
        :name-of="outletName"
      />
    </template>
  </PathView>
</template>
