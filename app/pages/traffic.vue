<script setup lang="ts">
import { linkTraffic } from '#shared/api/links'
import { outletTraffic } from '#shared/api/outlets'
import { protocolOf } from '#core/links/registry'
import { outletFactsOf } from '#core/outlets/registry'
import type { TrafficSource } from '~/composables/useTraffic'

/** What passes at a link or an outlet while this page is open, or what a file says that passed elsewhere. */
const route = useRoute()
const lists = useLists()
await lists.whenLoaded()

type Choice = TrafficSource & { value: string; title: string }
const session = useSession()
/** Nothing is asked for that would be refused. */
const choices = computed((): Choice[] => (session.can('configure') ? tapped.value : []))
const tapped = computed((): Choice[] => [
  ...lists.links
    .filter(({ kind }) => protocolOf(kind).capabilities.tap)
    .map(({ id, name, kind }) => ({ value: `link ${id}`, title: name, operation: linkTraffic, id, kind, asks: true })),
  ...lists.outlets
    .filter(({ kind }) => outletFactsOf(kind).capabilities.tap)
    .map(({ id, name, kind }) => ({ value: `outlet ${id}`, title: name, operation: outletTraffic, id, kind, asks: false })),
])
const wanted = computed(() =>
  route.query.link ? `link ${String(route.query.link)}` : route.query.outlet ? `outlet ${String(route.query.outlet)}` : null,
)
const source = computed(() => choices.value.find(({ value }) => value === wanted.value) ?? null)
const choose = (value: string | null) => {
  const [of, id] = (value ?? '').split(' ')
  return navigateTo({ path: '/traffic', query: of && id ? { [of]: id } : {} }, { replace: true })
}
</script>

<template>
  <TrafficBoard :source :choices @choose="choose" />
</template>
