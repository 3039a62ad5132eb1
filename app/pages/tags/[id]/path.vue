<script setup lang="ts">
import { showTag } from '#shared/api/tags'
import type { Tag } from '#shared/tags'

/** How far the value of a tag comes, and to whom. */
const id = Number(useRoute().params.id)
const session = useSession()
const tag = shallowRef<Tag | null>(null)
const refused = shallowRef<Refused | null>(null)
try {
  tag.value = await callApi(showTag, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}
const trail = computed(() => [
  { to: '/tags', text: 'Tags' },
  { to: `/tags/${id}`, text: tag.value?.path ?? 'Tag' },
])
</script>

<template>
  <div v-if="refused" class="page"><FaultNote :fault="refused.why" /></div>
  <PathView v-else :id="id" of="tag" :flow="null" sentence="" :trail="trail">
    <template #buttons>
      <v-btn :to="`/tags/${id}`">{{ session.can('configure') ? 'Edit the tag' : 'The tag' }}</v-btn>
    </template>
    <template #side="{ steps, running }">
      <WaySides :steps="steps" :running="running" />
    </template>
  </PathView>
</template>
