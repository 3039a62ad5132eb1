import { fileURLToPath } from 'node:url'
import { vuetifyTheme } from './app/theme'

const folder = (name: string) => fileURLToPath(new URL(name, import.meta.url))

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
    esbuild: { options: { target: 'es2022' } },
  },
  vuetify: { vuetifyOptions: vuetifyTheme, moduleOptions: { disableVuetifyStyles: false } },
  vite: { build: { chunkSizeWarningLimit: 1200 } },
  typescript: { strict: true, typeCheck: false },
})
