import { createHash } from 'node:crypto'
import { defineNitroPlugin } from 'nitropack/runtime'

const inlineScript = /<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g

/** Only our own scripts run: the few that the page carries inline are named by their hash. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:response', (response) => {
    const hashes = [...String(response.body).matchAll(inlineScript)].map(
      ([, script]) => `'sha256-${createHash('sha256').update(script!).digest('base64')}'`,
    )
    response.headers = {
      ...response.headers,
      'content-security-policy': [
        "default-src 'self'",
        `script-src 'self' ${hashes.join(' ')}`,
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
      ].join('; '),
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
    }
  })
})
