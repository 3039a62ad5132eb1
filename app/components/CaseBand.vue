<script setup lang="ts">
import { momentText } from '#core/text/moment'

/** Of a copy that looks at the case of another site: whose it is, and that nothing here is connected. */
const lists = useLists()
</script>

<template>
  <SiteBand v-if="lists.siteCase" label="A case is open" to="/site/case" way="About this case" dashed>
    <strong class="name">Case of {{ lists.siteCase.site }}</strong>
    <span class="when">as it was on {{ momentText(Date.parse(lists.siteCase.madeAt)) }}; connected to nothing.</span>
  </SiteBand>
</template>

<style scoped>
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.when {
  white-space: nowrap;
}
</style>
