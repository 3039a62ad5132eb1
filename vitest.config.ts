import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import autoImports from 'unimport/unplugin'
import { defineConfig } from 'vitest/config'
import { LongestFirst } from './tests/support/longestFirst'

const app = fileURLToPath(new URL('app', import.meta.url))
const pages = fileURLToPath(new URL('tests/nuxt/support.ts', import.meta.url))

/** What pages and composables find without importing it. */
const foundByName = autoImports.vite({
  presets: ['vue', 'pinia'],
  dirs: [`${app}/composables`, `${app}/stores`],
  imports: ['navigateTo', 'useRoute', 'onBeforeRouteLeave'].map((name) => ({ name, from: pages })),
})

/** Files that put modules of their own in the place of ours, or set the clock: nobody else may have loaded those before, or do after. */
const ownModules = ['tests/engine/arrivals.test.ts', 'tests/engine/clockJumps.test.ts', 'tests/engine/subjects.test.ts']
/** Files that kill, hang and wait by the clock: nothing runs beside them. */
const alone = ['tests/e2e/soak.test.ts', 'tests/e2e/commandLine.test.ts', 'tests/e2e/upgrade.test.ts']
const ofSite = { testTimeout: 300_000, hookTimeout: 360_000 }
/** What is loaded once serves all files of a worker. */
const sharing = { isolate: false }

export default defineConfig({
  test: {
    maxWorkers: 2,
    sequence: { sequencer: LongestFirst },
    projects: [
      // nothing is said by how long they take: a machine may be busy
      {
        test: {
          name: 'unit',
          include: ['tests/unit/**/*.test.ts'],
          ...sharing,
          setupFiles: ['tests/support/wholeSizes.ts'],
          testTimeout: 30_000,
        },
      },
      {
        plugins: [vue(), foundByName],
        resolve: { alias: { '~': app } },
        test: { name: 'app', include: ['tests/nuxt/**/*.test.ts'], environment: 'happy-dom' },
      },
      {
        test: {
          name: 'engine',
          include: ['tests/engine/**/*.test.ts'],
          exclude: ownModules,
          ...sharing,
          // they wait more than they work
          maxWorkers: 3,
          globalSetup: ['tests/support/cluster.ts'],
          testTimeout: 120_000,
          hookTimeout: 180_000,
        },
      },
      {
        test: {
          name: 'engine-parts',
          include: ownModules,
          globalSetup: ['tests/support/cluster.ts'],
          testTimeout: 120_000,
          hookTimeout: 180_000,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['tests/e2e/**/*.test.ts'],
          exclude: alone,
          ...ofSite,
          setupFiles: ['tests/support/ownPorts.ts'],
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: { name: 'e2e-alone', include: alone, ...ofSite, fileParallelism: false, sequence: { groupOrder: 2 } },
      },
    ],
  },
})
