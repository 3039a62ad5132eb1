<script setup lang="ts">
import { protocolOf } from '#core/links/registry'
import { folderOf } from '#core/tags/path'
import type { Tag, TagDraft } from '#shared/tags'

const route = useRoute()
const lists = useLists()
const made = ref<Tag[]>([])
await lists.whenLoaded()

const blank = (): TagDraft => ({
  path: '',
  linkId: Number(route.query.link) || (lists.links[0]?.id ?? 0),
  address: '',
  type: 'uint16',
  options: {},
  access: 'read',
  interval: null,
  scaling: null,
  unit: '',
  range: null,
  description: '',
})

/** The tag after another one: the same in everything, one width further. */
const after = (tag: Tag): TagDraft => {
  const { id: _id, revision: _revision, ...rest } = tag
  const link = lists.links.find(({ id }) => id === tag.linkId)
  const folder = folderOf(tag.path)
  return { ...rest, path: folder ? `${folder}/` : '', address: (link && protocolOf(link.kind).next(tag)) ?? '' }
}

const like = route.query.like ? await callApi<Tag>(`/tags/${Number(route.query.like)}`).catch(() => null) : null
const initial = like ? after(like) : blank()

const saved = (tag: Tag, next: TagDraft | null) => {
  made.value.unshift(tag)
  if (!next) void navigateTo(`/tags?tag=${tag.id}`)
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>New tag</h1>
      <span v-if="made.length" class="quiet">made so far: {{ made.map((tag) => tag.path).join(', ') }}</span>
      <span class="fill" />
      <v-btn to="/tags">{{ made.length ? 'Done' : 'Discard' }}</v-btn>
    </div>
    <EmptyState
      v-if="lists.links.length === 0"
      title="Tags read through links"
      text="Make a link first; then its registers can become tags."
    >
      <v-btn variant="flat" to="/links/new">New link</v-btn>
    </EmptyState>
    <TagSheet v-else :initial="initial" :tag="null" @saved="saved" />
  </div>
</template>
