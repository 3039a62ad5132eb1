import { copyFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { project } from './paths.mjs'

/** Bundles what runs beside the web application. npm packages stay outside. */
const entries = {
  engine: 'engine/main.ts',
  node: 'engine/farNode/main.ts',
  standins: 'standins/main.ts',
  prepare: 'demo/prepare.ts',
  site: 'server/command/site.ts',
  tags: 'server/command/tags.ts',
  tagWorker: 'server/worker/main.ts',
  printer: 'server/worker/printer.ts',
}

const outdir = join(project, '.output', 'bundles')
mkdirSync(outdir, { recursive: true })
await build({
  absWorkingDir: project,
  entryPoints: Object.fromEntries(Object.entries(entries).map(([name, file]) => [name, join(project, file)])),
  outdir,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
})
copyFileSync(join(project, 'standins', 'page.html'), join(outdir, 'page.html'))
copyFileSync(join(project, 'standins', 'cloud', 'page.html'), join(outdir, 'cloud.html'))
copyFileSync(join(project, 'standins', 'opcua', 'armTypes.xml'), join(outdir, 'armTypes.xml'))
