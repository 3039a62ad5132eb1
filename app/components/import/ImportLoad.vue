<script setup lang="ts">
import type { LinkLoad } from '#core/links/load'
import { loadImport } from '#shared/api/imports'
import { partWord } from '#core/links/registry'
import { counted } from '#core/text/counted'
import type { ImportStatus } from '#shared/imports'

/** What a table does to the plant: the rounds of each link that it touches, before it is applied. */
const props = defineProps<{ status: ImportStatus }>()
const links = shallowRef<Awaited<ReturnType<typeof ask>>>([])
const ask = () => callApi(loadImport, { params: { id: props.status.id } })
let turn = 0
watch(
  () => [props.status.id, props.status.state, JSON.stringify(props.status.settings)],
  async () => {
    const mine = ++turn
    const found = props.status.state === 'ready' ? await ask().catch(() => []) : []
    if (mine === turn) links.value = found
  },
  { immediate: true },
)

const requests = ({ parts }: LinkLoad) => parts.reduce((sum, { rounds }) => sum + rounds.reduce((of, round) => of + round.requests, 0), 0)
const lists = useLists()
const partOf = (linkId: number) => {
  const kind = lists.links.find(({ id }) => id === linkId)?.kind
  return kind ? partWord(kind) : 'unit'
}
const summary = computed(() =>
  links.value
    .map(({ name, now, then }) => {
      const [before, after] = [requests(now), requests(then)]
      return before === after
        ? `${name}: ${counted(after, 'request')} a round, as now`
        : `${name}: ${before} → ${counted(after, 'request')} a round`
    })
    .join(' · '),
)
</script>

<template>
  <SettingsFold v-if="links.length > 0" title="To the plant" :summary="summary" class="plant">
    <LoadTable v-for="link in links" :key="link.id" :change="link" :title="link.name" :part="partOf(link.id)" brief />
  </SettingsFold>
</template>

<style scoped>
.plant {
  flex: none;
  margin-bottom: 8px;
}
</style>
