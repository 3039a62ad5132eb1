import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { fault } from '#core/faults/catalogue'
import type { Handler } from './asked'
import { docsStyle } from './docsStyle'
import { problem, type Reply } from './reply'

/** The page on which what there is can be tried; everything that it needs comes from here. */

const page = `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width" />
    <title>What is to be had here</title>
    <link rel="stylesheet" href="/docs/page.css" />
    <link rel="stylesheet" href="/docs/own.css" />
  </head>
  <body>
    <div id="explorer"></div>
    <script src="/docs/explorer.js"></script>
    <script src="/docs/start.js"></script>
  </body>
</html>
`
const start = `SwaggerUIBundle({ url: '/openapi.json', dom_id: '#explorer', deepLinking: true, tryItOutEnabled: true, validatorUrl: null })
`
const protection =
  "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'"

const made: Record<string, [type: string, text: string]> = {
  '': ['text/html; charset=utf-8', page],
  'start.js': ['text/javascript; charset=utf-8', start],
  'own.css': ['text/css; charset=utf-8', docsStyle],
}
/** Files of packages that ship with us. */
const packaged: Record<string, [type: string, of: string, file: string]> = {
  'page.css': ['text/css; charset=utf-8', 'swagger-ui-dist', 'swagger-ui.css'],
  'explorer.js': ['text/javascript; charset=utf-8', 'swagger-ui-dist', 'swagger-ui-bundle.js'],
  'plex.woff2': ['font/woff2', '@fontsource/ibm-plex-sans', 'files/ibm-plex-sans-latin-400-normal.woff2'],
  'plex-bold.woff2': ['font/woff2', '@fontsource/ibm-plex-sans', 'files/ibm-plex-sans-latin-600-normal.woff2'],
  'plex-mono.woff2': ['font/woff2', '@fontsource/ibm-plex-mono', 'files/ibm-plex-mono-latin-400-normal.woff2'],
}
const known = new Map<string, Buffer>()

export const docsHandler: Handler = async ({ request, path }, { '*': name = '' }) => {
  const file = await fileOf(name)
  if (!file) return problem(fault('serve.unknown-path', { method: 'GET', path }))
  const etag = `"${createHash('sha256').update(file.body).digest('base64url').slice(0, 16)}"`
  const headers = { etag, 'cache-control': 'no-cache', 'content-security-policy': protection, 'x-content-type-options': 'nosniff' }
  if (request.headers['if-none-match'] === etag) return { status: 304, body: '', type: file.type, headers }
  return { ...file, headers }
}

const fileOf = async (name: string): Promise<Reply | null> => {
  const text = made[name]
  if (Object.hasOwn(made, name) && text) return { status: 200, type: text[0], body: Buffer.from(text[1]) }
  const asset = packaged[name]
  if (!Object.hasOwn(packaged, name) || !asset) return null
  const [type, of, file] = asset
  const body = known.get(file) ?? (await readFile(join(folderOf(of), file)))
  known.set(file, body)
  return { status: 200, type, body }
}

const folderOf = (name: string) => dirname(createRequire(import.meta.url).resolve(`${name}/package.json`))
