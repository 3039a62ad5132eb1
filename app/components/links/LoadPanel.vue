<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { partWord } from '#core/links/registry'
import { loadLink } from '#shared/api/links'
import { linkContract, type LinkDraft } from '#shared/links/link'
import type { LoadChange } from '#shared/load'
import { tagDraft, type TagDraft } from '#shared/tags'

/** What a link is asked for, and what it would be asked for with what is typed. */
const props = defineProps<{
  linkId: number
  title: string
  link?: LinkDraft
  /** A tag as it is typed. */
  tag?: { id: number | null; tag: TagDraft }
  brief?: boolean
}>()
const change = shallowRef<LoadChange | null>(null)
let turn = 0

const ask = async () => {
  const mine = ++turn
  const [link, tag] = [props.link && linkContract.safeParse(props.link), props.tag && tagDraft.safeParse(props.tag.tag)]
  if (link?.success === false || tag?.success === false) return
  const tags = tag ? [{ id: props.tag!.id, tag: tag.data }] : []
  const found = await callApi(loadLink, { params: { id: props.linkId }, body: { link: link?.data ?? null, tags } }).catch(() => null)
  if (mine === turn) change.value = found
}
const askSoon = useDebounceFn(ask, 300)
watch(
  () => JSON.stringify([props.linkId, props.link, props.tag]),
  () => void askSoon(),
)
onMounted(ask)
const lists = useLists()
const part = computed(() => {
  const kind = lists.links.find(({ id }) => id === props.linkId)?.kind
  return kind ? partWord(kind) : 'unit'
})
const isWorthIt = computed(() => !props.brief || JSON.stringify(change.value?.now) !== JSON.stringify(change.value?.then))
</script>

<template>
  <LoadTable v-if="change && isWorthIt" class="sheet panel" :change="change" :title="title" :part="part" :brief="brief ?? false" />
</template>

<style scoped>
.panel {
  padding: 12px 16px;
  margin-top: 12px;
}
</style>
