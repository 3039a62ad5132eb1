<script setup lang="ts">
definePageMeta({ layout: false })
const route = useRoute()
const go = () => navigateTo(String(route.query.to ?? '/'))
</script>

<template>
  <main class="door">
    <section class="sheet">
      <header>
        <svg width="34" height="26" viewBox="0 0 24 18" aria-hidden="true">
          <path d="M1 2h12a5 5 0 0 1 5 5v10h-5V8H1z" fill="currentColor" />
          <path d="M19 2h4v6h-4z" fill="#E59A52" />
        </svg>
        <h1>Keen Conduit</h1>
      </header>
      <SignInForm @done="go" />
    </section>
  </main>
</template>

<style scoped>
.door {
  display: grid;
  place-items: center;
  min-height: 100vh;
  padding: 20px;
}
section {
  width: 360px;
  max-width: 100%;
  padding: 26px 28px;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 18px;
  color: var(--primary);
}
h1 {
  font-size: 18px;
  font-weight: 600;
  margin: 0;
}
</style>
