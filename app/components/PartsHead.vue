<script setup lang="ts">
/** The head of a page that has parts beside each other, each a page of its own. */
defineProps<{ title: string; parts: readonly { title: string; path: string }[] }>()
const route = useRoute()
</script>

<template>
  <div class="page-head">
    <h1>{{ title }}</h1>
    <nav :aria-label="`Parts of ${title}`" class="parts">
      <NuxtLink v-for="part in parts" :key="part.path" :to="part.path" :aria-current="route.path === part.path ? 'page' : undefined">{{
        part.title
      }}</NuxtLink>
    </nav>
    <slot />
  </div>
</template>
