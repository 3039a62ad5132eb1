<script setup lang="ts">
import { mdiThemeLightDark } from '@mdi/js'
import { zoneText } from '#core/text/moment'
import { useTheme } from 'vuetify'

defineEmits<{ find: [] }>()
const lists = useLists()
const theme = useTheme()

const turn = () => {
  const next = theme.global.current.value.dark ? 'light' : 'dark'
  theme.change(next)
  localStorage.setItem('theme', next)
}
onMounted(() => {
  const kept = localStorage.getItem('theme')
  if (kept === 'dark' || kept === 'light') theme.change(kept)
})
</script>

<template>
  <header class="bar">
    <NuxtLink to="/" class="brand">
      <svg width="24" height="18" viewBox="0 0 24 18" aria-hidden="true">
        <path d="M1 2h12a5 5 0 0 1 5 5v10h-5V8H1z" fill="#fff" />
        <path d="M19 2h4v6h-4z" fill="#E59A52" />
      </svg>
      <strong>Keen Conduit</strong>
    </NuxtLink>
    <span class="site">{{ lists.siteName }}</span>
    <span class="zone" title="All times on these pages are by this clock">Times in {{ zoneText() }}</span>
    <span class="fill" />
    <button type="button" class="find" @click="$emit('find')">
      <span>Find a link, tag, address or action</span>
      <kbd>Ctrl K</kbd>
    </button>
    <button type="button" class="turn" aria-label="Light or dark" title="Light or dark" @click="turn">
      <v-icon :icon="mdiThemeLightDark" size="18" />
    </button>
    <WhoMenu />
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  height: 44px;
  padding: 0 20px;
  background: #0e5a63;
  color: #fff;
}
.brand {
  display: flex;
  align-items: center;
  gap: 9px;
  color: inherit;
  text-decoration: none;
  font-size: 15px;
}
.zone {
  font-size: 12px;
  opacity: 0.75;
  white-space: nowrap;
}
.site {
  opacity: 0.85;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.fill {
  flex: 1;
}
.bar .find {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  width: 300px;
  height: 28px;
  padding: 0 12px;
  border-radius: 6px;
  background: rgba(255, 255, 255, 0.14);
  color: inherit;
}
.find:focus-visible,
.turn:focus-visible {
  outline: 2px solid #e59a52;
}
kbd {
  font: 12px var(--mono);
}
.bar .turn {
  color: inherit;
  display: grid;
  place-items: center;
  width: 28px;
  height: 28px;
  border-radius: 6px;
}
</style>
