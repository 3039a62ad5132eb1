<script setup lang="ts">
import { operationsOf } from '~/bridges/operations'
import { receivers } from '~/bridges/blank'

/** Which operation of which web API. */
const linkId = defineModel<number>('linkId', { required: true })
const operation = defineModel<string>('operation', { required: true })
defineProps<{ linkMessage?: string; message?: string }>()
const lists = useLists()

const links = computed(() => receivers('call', lists).map(({ id, name }) => ({ value: id, title: name })))
const operations = computed(() =>
  operationsOf(lists.links, linkId.value).map(({ name, method, path }) => ({
    value: name,
    title: name,
    subtitle: `${method} ${path || '/'}`,
  })),
)
</script>

<template>
  <ChoiceField v-model="linkId" label="Over" :choices="links" :message="linkMessage ?? ''" />
  <p v-if="links.length === 0" class="quiet whole">No web API is linked yet. <NuxtLink to="/links/new">Make a link first.</NuxtLink></p>
  <p v-else-if="operations.length === 0" class="quiet whole">
    This link has no operations yet. <NuxtLink :to="`/links/${linkId}`">Make one in its settings.</NuxtLink>
  </p>
  <ChoiceField v-else v-model="operation" label="Operation" :choices="operations" :message="message ?? ''" />
</template>
