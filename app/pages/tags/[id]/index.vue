<script setup lang="ts">
import { showTag } from '#shared/api/tags'
import type { Tag, TagDraft } from '#shared/tags'

const route = useRoute()
const lists = useLists()
const tag = shallowRef<Tag | null>(null)
const refused = ref<Refused | null>(null)
try {
  await lists.whenLoaded()
  tag.value = await callApi(showTag, { params: { id: Number(route.params.id) } })
} catch (error) {
  refused.value = asRefused(error)
}

const draftOf = ({ id: _id, revision: _revision, ...draft }: Tag): TagDraft => draft
const saved = (changed: Tag) => navigateTo(`/tags?tag=${changed.id}`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/tags" class="trail">Tags ›</NuxtLink>
      <h1>{{ tag?.path ?? 'Tag' }}</h1>
      <span class="fill" />
      <v-btn v-if="tag" :to="`/tags/${tag.id}/path`">Path check</v-btn>
      <v-btn :to="tag ? `/tags?tag=${tag.id}` : '/tags'">Back to the list</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <TagSheet v-if="tag" :initial="draftOf(tag)" :tag="tag" @saved="saved" />
  </div>
</template>
