<script setup lang="ts">
import { dayText } from '#core/text/moment'
import { fingerprintText } from '#core/certificates/judge'

/** What the far side will see of us, for whoever has to trust it there. */
const { own } = useOwnCertificate()
const until = computed(() => (own.value ? dayText(own.value.facts.validTo) : ''))
</script>

<template>
  <div v-if="own" class="line">
    <strong>Our certificate</strong>
    <span class="quiet">
      {{ own.facts.name }}, valid until {{ until }} · <span class="mono">{{ fingerprintText(own.facts.fingerprintSha1) }}</span> ·
      <NuxtLink to="/site/certificates">see it</NuxtLink>
    </span>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 10px;
  padding: 9px 0;
  border-top: 1px solid var(--line-soft);
}
strong {
  font-weight: 600;
}
</style>
