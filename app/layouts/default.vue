<script setup lang="ts">
const finding = ref(false)
const explaining = ref(false)
useKeys({ find: () => (finding.value = true), explain: () => (explaining.value = true) })
</script>

<template>
  <div class="frame">
    <TopBar @find="finding = true" />
    <CaseBand />
    <HeldBand />
    <ConduitStrip />
    <main class="content"><slot /></main>
    <FinderDialog v-model="finding" />
    <KeysDialog v-model="explaining" />
    <NoticeBar />
    <SignInDialog />
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.content {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
</style>
