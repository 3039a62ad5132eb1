<script setup lang="ts">
import { showLink } from '#shared/api/links'
import type { Link } from '#shared/links/link'
import { linkForms } from '~/links/registry'

/** Tags of a link from a file of the program that runs on the far side. */
const route = useRoute()
const link = shallowRef<Link | null>(null)
const refused = ref<Refused | null>(null)
try {
  link.value = await callApi(showLink, { params: { id: Number(route.params.id) } })
} catch (error) {
  refused.value = asRefused(error)
}
const form = computed(() => link.value && linkForms[link.value.kind].program)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="`/links/${route.params.id}`" class="trail">{{ link?.name ?? 'Link' }} ›</NuxtLink>
      <h1>Tags from its program</h1>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <component :is="form" v-if="link && form" :link="link" @saved="link = $event" />
    <p v-else-if="link" class="quiet">Links of this kind have no program to read.</p>
  </div>
</template>
