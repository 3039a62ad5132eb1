<script setup lang="ts">
import { fingerprintText } from '#core/certificates/judge'
import type { PairedWith } from '#core/pairing/facts'

/** With which copy a link or an outlet is paired, and where that is ended or done again. */
defineProps<{ paired: PairedWith }>()
</script>

<template>
  <p class="paired">
    Paired with “{{ paired.name }}”, whose certificate is
    <span class="mono" :title="fingerprintText(paired.fingerprint)">{{ fingerprintText(paired.fingerprint).slice(0, 23) }}…</span>; no other
    will do. <NuxtLink to="/site/relays" class="link">Pair again, or end it</NuxtLink>
  </p>
</template>

<style scoped>
.paired {
  margin: 0 0 10px;
}
</style>
