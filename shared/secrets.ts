import type { Secret } from '#core/contracts/secret'

const isSecret = (value: object): value is Secret =>
  Object.keys(value).length === 1 &&
  (('plain' in value && typeof value.plain === 'string') ||
    ('sealed' in value && typeof value.sealed === 'string') ||
    ('hashed' in value && typeof value.hashed === 'string') ||
    ('kept' in value && value.kept === true))

/**
 * Where a secret stands: `path` leads there by names and indexes, for messages; `owner` takes an
 * element's own name for its index, so that who moves up in a list does not get another's secret.
 */
interface Spot {
  path: string
  owner: string
}

/** A copy in which every secret, however deep, is replaced. */
export const mapSecrets = <T>(value: T, replace: (secret: Secret, spot: Spot) => unknown, spot: Spot = { path: '', owner: '' }): T => {
  const inside = (name: string | number, owner: string | number) => ({ path: join(spot.path, name), owner: join(spot.owner, owner) })
  if (Array.isArray(value)) return value.map((item: unknown, i) => mapSecrets(item, replace, inside(i, ownName(item) ?? i))) as T
  if (value === null || typeof value !== 'object') return value
  if (isSecret(value)) return replace(value, spot) as T
  return Object.fromEntries(
    Object.entries(value).map(([name, part]) => [name, mapSecrets(part as unknown, replace, inside(name, name))]),
  ) as T
}

const ownName = (item: unknown) => {
  const name = (item as { name?: unknown } | null | undefined)?.name
  return typeof name === 'string' ? name : null
}

const join = (path: string, step: string | number) => (path === '' ? String(step) : `${path}.${step}`)

/** What may leave the server: secrets are there or not, and no more. */
export const withoutSecrets = <T>(settings: T): T => mapSecrets(settings, () => ({ kept: true }))

/** Secrets that are kept take the place of their marks; a mark without one is left for the contract to refuse. */
export const withKept = <T>(settings: T, kept: unknown): T => {
  const known = new Map<string, Secret>()
  mapSecrets(kept, (secret, { owner }) => {
    known.set(owner, secret)
    return secret
  })
  return mapSecrets(settings, (secret, { owner }) => ('kept' in secret ? (known.get(owner) ?? secret) : secret))
}
