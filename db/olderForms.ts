import { visible } from '#core/text/visible'
import type { Subject } from './subjects'

type Stored = Record<string, unknown>

/**
 * Brings what was stored by an earlier version into the present form. Tables are brought up by
 * migrations; revisions and the engine's kept copy are brought up here, when they are read. Each form
 * is known by its shape, and a form once stored is never forgotten.
 */
export const broughtUp = (subject: Subject, stored: unknown): unknown => {
  if (!isRecord(stored)) return stored
  const named = typeof stored.name === 'string' ? { ...stored, name: visible(stored.name) } : stored
  if (subject === 'outlet') return { ...named, settings: withRights(withDoors(stored.settings)) }
  if (subject === 'link') return { ...named, settings: withClearPassword(stored.settings) }
  return subject === 'tag' ? tagOf(named) : named
}

const isRecord = (value: unknown): value is Stored => typeof value === 'object' && value !== null && !Array.isArray(value)

/** In the table the link's id has the table's way of writing; a range came with migration 005. */
const tagOf = ({ link_id, ...tag }: Stored): Stored => ({
  range: null,
  ...tag,
  ...(link_id === undefined ? {} : { linkId: link_id }),
  ...(typeof tag.path === 'string' ? { path: visible(tag.path) } : {}),
})

/** Links of before may go on as they did; who makes one now decides whether its password may travel in clear. */
const withClearPassword = (settings: unknown): unknown => {
  if (!isRecord(settings) || !isRecord(settings.identity)) return settings
  return settings.identity.kind === 'password' ? { ...settings, identity: { inClear: true, ...settings.identity } } : settings
}

/** As migration 004: one port on loopback became doors. */
const withDoors = (settings: unknown): unknown => {
  if (!isRecord(settings) || !('port' in settings)) return settings
  const { port, anonymousMayWrite = true } = settings
  const ways = { giveOut: '', policies: ['None'], modes: ['SignAndEncrypt'], anonymous: true, names: false }
  return { anonymousMayWrite, users: [], doors: [{ on: true, interface: '127.0.0.1', port, ...ways }] }
}

/** As migration 005: one mark for who may write became rights by folder. */
const withRights = (settings: unknown): unknown => {
  if (!isRecord(settings) || !('anonymousMayWrite' in settings)) return settings
  const { anonymousMayWrite, users, doors, ...rest } = settings
  return {
    ...rest,
    doors: listOf(doors).map((door) => ({ ...door, certificates: false })),
    shows: [{ folder: '', may: 'write' }],
    anonymous: wholeSite(anonymousMayWrite),
    users: listOf(users).map(({ name, password, mayWrite }) => ({
      name,
      key: { kind: 'password', password },
      rules: wholeSite(mayWrite),
    })),
  }
}

const listOf = (value: unknown): Stored[] => (Array.isArray(value) ? value.filter(isRecord) : [])
const wholeSite = (mayWrite: unknown) => [{ folder: '', may: mayWrite === true ? 'write' : 'read' }]
