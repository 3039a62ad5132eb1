<script setup lang="ts">
/** Links that have no points ask nothing of them. */
</script>

<template>
  <p class="quiet">This link has no points that a tag could read; bridges send to it.</p>
</template>
