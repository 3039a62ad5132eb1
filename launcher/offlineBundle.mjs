import { createHash } from 'node:crypto'
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { project } from './paths.mjs'

/** Larger files belong to pages that need the site anyway. */
const mostBytes = 1_000_000

/**
 * Bundles the worker that keeps the application at hand in a browser, with a list of the files of this build.
 *
 * @param {string} publicFolder from where files are served
 */
export const bundleOffline = async (publicFolder) => {
  const files = readdirSync(join(publicFolder, '_nuxt'), { recursive: true, encoding: 'utf8' })
    .map((file) => join('_nuxt', file))
    .filter((file) => /\.(js|css|woff2)$/.test(file) && statSync(join(publicFolder, file)).size < mostBytes)
  const manifest = [...files, 'icon.svg'].map((file) => ({ url: `/${file}`, revision: revisionOf(join(publicFolder, file)) }))
  await build({
    entryPoints: [join(project, 'app', 'offline', 'worker.ts')],
    outfile: join(publicFolder, 'offline.js'),
    bundle: true,
    minify: true,
    format: 'iife',
    target: 'es2022',
    define: { 'self.__WB_MANIFEST': JSON.stringify(manifest), 'process.env.NODE_ENV': '"production"' },
    logLevel: 'warning',
  })
}

/** @param {string} file */
const revisionOf = (file) => createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 16)
