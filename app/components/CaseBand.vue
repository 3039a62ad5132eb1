<script setup lang="ts">
import { momentText } from '#core/text/moment'

/** Above every page of a copy that looks at the case of another site: whose it is, and that nothing here is connected. */
const lists = useLists()
</script>

<template>
  <aside v-if="lists.siteCase" class="case-band" aria-label="A case is open">
    <strong>Case of {{ lists.siteCase.site }}</strong>
    <span>as it was on {{ momentText(Date.parse(lists.siteCase.madeAt)) }}; connected to nothing.</span>
    <span class="fill" />
    <NuxtLink to="/site/case">About this case</NuxtLink>
  </aside>
</template>

<style scoped>
.case-band {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 5px 18px;
  background: color-mix(in srgb, var(--copper) 16%, var(--surface));
  border-bottom: 2px dashed var(--copper);
  font-size: 13px;
}
.case-band strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.case-band span {
  white-space: nowrap;
}
</style>
