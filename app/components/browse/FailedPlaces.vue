<script setup lang="ts">
import { counted } from '#core/text/counted'
import type { FailedPlace } from '#shared/browse'

/** Places that the far side did not show: what lies below them is missing. */
defineProps<{ failed: readonly FailedPlace[] }>()
const mostShown = 50
</script>

<template>
  <details v-if="failed.length > 0" class="failed is-late">
    <summary>{{ counted(failed.length, 'place') }} could not be looked into; what lies below is missing</summary>
    <ul>
      <li v-for="place in failed.slice(0, mostShown)" :key="place.names.join('/')">
        {{ place.names.join('/') }} <span class="quiet">{{ place.why }}</span>
      </li>
    </ul>
  </details>
</template>

<style scoped>
.failed {
  margin-bottom: 10px;
}
.failed ul {
  margin: 4px 0 0;
  padding-left: 20px;
}
</style>
