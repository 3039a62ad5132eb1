import { readdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { bundleOffline } from './launcher/offlineBundle.mjs'
import { vuetifyTheme } from './app/theme'

const folder = (name: string) => fileURLToPath(new URL(name, import.meta.url))

/** The routes of the API, from the names of their files. */
const apiRoutes = readdirSync(folder('./server/api'), { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.ts') && !file.includes('[...'))
  .map((file) => `/api/${file.replace(/(\.(get|post|put|delete))?\.ts$/, '').replace(/\[(\w+)\]/g, ':$1')}`.replace(/\/index$/, ''))

export default defineNuxtConfig({
  compatibilityDate: '2026-06-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', 'vuetify-nuxt-module'],
  alias: { '#core': folder('./core'), '#shared': folder('./shared'), '#db': folder('./db') },
  css: [
    '@fontsource/ibm-plex-sans/400.css',
    '@fontsource/ibm-plex-sans/500.css',
    '@fontsource/ibm-plex-sans/600.css',
    '@fontsource/ibm-plex-mono/400.css',
    '@fontsource/ibm-plex-mono/500.css',
    '@fontsource/ibm-plex-mono/600.css',
    '~/assets/base.css',
  ],
  app: {
    head: {
      title: 'Keen Conduit',
      htmlAttrs: { lang: 'en' },
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/icon.svg' }],
    },
  },
  components: [{ path: '~/components', pathPrefix: false }],
  imports: { autoImport: true },
  nitro: {
    experimental: { websocket: true },
    // without it a method that a route does not take would be answered by the page
    handlers: [...new Set(apiRoutes)].map((route) => ({ route, handler: folder('./server/otherMethod.ts') })),
    esbuild: { options: { target: 'es2022' } },
  },
  hooks: {
    'nitro:build:public-assets': (nitro) => bundleOffline(nitro.options.output.publicDir),
  },
  vuetify: { vuetifyOptions: vuetifyTheme, moduleOptions: { disableVuetifyStyles: false } },
  vite: { build: { chunkSizeWarningLimit: 1200 } },
  typescript: { strict: true, typeCheck: false },
})
