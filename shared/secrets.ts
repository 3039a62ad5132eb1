import { z } from 'zod'
import type { Secret } from '#core/links/secret'

/**
 * A secret inside settings. A person types `plain`; the database holds `sealed`; pages and
 * programs are only told that one is `kept`, and send that back to leave it as it is.
 */
export const secretField = (needed: string) =>
  z.union(
    [
      z.object({ plain: z.string().min(1, needed).max(20_000, 'A secret has at most 20,000 characters.') }),
      z.object({ kept: z.literal(true) }),
      z.object({ sealed: z.string() }),
    ],
    { error: needed },
  )

const isSecret = (value: object): value is Secret =>
  Object.keys(value).length === 1 &&
  (('plain' in value && typeof value.plain === 'string') ||
    ('sealed' in value && typeof value.sealed === 'string') ||
    ('kept' in value && value.kept === true))

/** A copy in which every secret, however deep, is replaced. `path` leads there, names and indexes joined by dots. */
export const mapSecrets = <T>(value: T, replace: (secret: Secret, path: string) => unknown, path = ''): T => {
  if (Array.isArray(value)) return value.map((item: unknown, index) => mapSecrets(item, replace, join(path, index))) as T
  if (value === null || typeof value !== 'object') return value
  if (isSecret(value)) return replace(value, path) as T
  return Object.fromEntries(
    Object.entries(value).map(([name, part]) => [name, mapSecrets(part as unknown, replace, join(path, name))]),
  ) as T
}

const join = (path: string, step: string | number) => (path === '' ? String(step) : `${path}.${step}`)

/** What may leave the server: secrets are there or not, and no more. */
export const withoutSecrets = <T>(settings: T): T => mapSecrets(settings, () => ({ kept: true }))

/** Secrets that are kept take the place of their marks; a mark without one is left for the contract to refuse. */
export const withKept = <T>(settings: T, kept: unknown): T => {
  const known = new Map<string, Secret>()
  mapSecrets(kept, (secret, path) => {
    known.set(path, secret)
    return secret
  })
  return mapSecrets(settings, (secret, path) => ('kept' in secret ? (known.get(path) ?? secret) : secret))
}
