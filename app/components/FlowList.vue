<script setup lang="ts">
import type { Flow } from '#shared/flow'

/** What belongs to something, each with what is happening and the way to it. */
defineProps<{ items: readonly { path: string; name: string; flow: Flow | null; sentence: string | null; more?: string }[] }>()
</script>

<template>
  <ul>
    <li v-for="item in items" :key="item.path">
      <NuxtLink :to="item.path">{{ item.name }}</NuxtLink>
      <PipeGlyph :flow="item.flow ?? 'waiting'" :width="38" />
      <span :class="item.flow === 'flowing' ? 'quiet' : `is-${item.flow}`">{{ item.sentence }}</span>
      <span v-if="item.more" class="quiet">{{ item.more }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  overflow-wrap: anywhere;
}
</style>
