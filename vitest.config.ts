import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import autoImports from 'unimport/unplugin'
import { defineConfig } from 'vitest/config'

const app = fileURLToPath(new URL('app', import.meta.url))
const pages = fileURLToPath(new URL('tests/nuxt/support.ts', import.meta.url))

/** What pages and composables find without importing it. */
const foundByName = autoImports.vite({
  presets: ['vue', 'pinia'],
  dirs: [`${app}/composables`, `${app}/stores`],
  imports: ['navigateTo', 'useRoute', 'onBeforeRouteLeave'].map((name) => ({ name, from: pages })),
})

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'unit', include: ['tests/unit/**/*.test.ts'] } },
      {
        plugins: [vue(), foundByName],
        resolve: { alias: { '~': app } },
        test: { name: 'app', include: ['tests/nuxt/**/*.test.ts'], environment: 'happy-dom' },
      },
      {
        test: {
          name: 'engine',
          include: ['tests/engine/**/*.test.ts'],
          globalSetup: ['tests/support/cluster.ts'],
          testTimeout: 60_000,
          hookTimeout: 90_000,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['tests/e2e/**/*.test.ts'],
          testTimeout: 180_000,
          hookTimeout: 240_000,
          fileParallelism: false,
        },
      },
    ],
  },
})
