<script setup lang="ts">
import { listBench } from '#shared/api/bench'
import { showTag } from '#shared/api/tags'
import { folderOf } from '#core/tags/path'
import { mostOnBench } from '#shared/bench'
import { pointSource } from '#shared/sources/point'
import { plainValue, type Tag, type TagDraft } from '#shared/tags'
import { faceOf } from '~/sources/registry'

const route = useRoute()
const lists = useLists()
const made = ref<Tag[]>([])
await lists.whenLoaded()

/** A point that was tried on the bench becomes a tag. */
const tried = route.query.bench
  ? await callApi(listBench, { query: { limit: mostOnBench } })
      .then(({ items }) => items.find(({ id }) => id === Number(route.query.bench)))
      .catch(() => undefined)
  : undefined

/** Without a link there is nothing to read through. */
const anyLink = Number(route.query.link) || lists.pointLinks[0]?.id
const face = faceOf(anyLink ? 'point' : 'memory')
const blank = (): TagDraft => ({
  path: '',
  source: face.blank(anyLink ?? 0),
  type: 'uint16',
  access: face.access,
  ...plainValue,
})

/** The tag after another one: the same in everything, one width further. */
const after = (tag: Tag): TagDraft => {
  const { id: _id, revision: _revision, ...rest } = tag
  const folder = folderOf(tag.path)
  return { ...rest, path: folder ? `${folder}/` : '', source: faceOf(tag.source.kind).next(tag, lists.links) }
}

const like = route.query.like ? await callApi(showTag, { params: { id: Number(route.query.like) } }).catch(() => null) : null
const initial = tried
  ? { ...blank(), type: tried.type, source: pointSource.parse({ ...tried, kind: 'point', interval: null }) }
  : like
    ? after(like)
    : blank()

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
    <TagSheet :initial="initial" :tag="null" @saved="saved" />
  </div>
</template>
