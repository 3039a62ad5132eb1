<script setup lang="ts">
/** While the database is no continuation of what is in force: what pages show is not what runs. */
const live = useLive()
</script>

<template>
  <SiteBand v-if="live.status?.heldDatabase" label="The database is held back" role="alert" to="/site" way="Decide on Site">
    <strong>{{ live.status.heldDatabase.fault.what }}</strong>
    <span>What pages show of the configuration is that of the database.</span>
  </SiteBand>
</template>
