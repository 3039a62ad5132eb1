import { z } from 'zod'
import { certificateContract, type KnownCertificate } from '#shared/certificates'
import { linkContract, type Link } from '#shared/links/link'
import { outletContract, type Outlet } from '#shared/outlets/outlet'
import { tagDraft, type Tag } from '#shared/tags'
import { broughtUp } from './olderForms'

/** Everything that is configured, by the table that holds it. */
export interface ThingOf {
  certificate: KnownCertificate
  link: Link
  outlet: Outlet
  tag: Tag
}
export type Subject = keyof ThingOf

/** What a stored thing was read as; or why it cannot be, and whose it is as far as that can be told. */
export type Read<T> = { ok: true; thing: T } | { ok: false; id: number; name: string; revision: number; problem: string }

interface Definition<T> {
  /** Reads a row, or what a file or a revision kept of it, in its present or an older form. */
  read(stored: unknown): Read<T>
  nameOf(thing: T): string
  /** The thing as its table names its columns. */
  toColumns(thing: T): Record<string, unknown>
  /** Columns that hold JSON: they go in as text, for a driver would turn arrays into PostgreSQL arrays. */
  json: readonly string[]
}

const identified = z.object({ id: z.int(), revision: z.int() })

const reader =
  <S extends Subject>(subject: S, contract: z.ZodType<Omit<ThingOf[S], 'id' | 'revision'>>) =>
  (stored: unknown): Read<ThingOf[S]> => {
    const present = broughtUp(subject, stored)
    const [outside, inside] = [identified.safeParse(present), contract.safeParse(present)]
    if (outside.success && inside.success) return { ok: true, thing: { ...inside.data, ...outside.data } as ThingOf[S] }
    const issues = [...(outside.error?.issues ?? []), ...(inside.error?.issues ?? [])]
    return { ok: false, ...markOf(stored), problem: issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join(' ') }
  }

const markOf = (stored: unknown) => {
  const { id, name, path, revision } = (stored ?? {}) as Record<string, unknown>
  const text = typeof name === 'string' ? name : typeof path === 'string' ? path : ''
  return { id: typeof id === 'number' ? id : 0, name: text, revision: typeof revision === 'number' ? revision : 0 }
}

const same = (thing: object): Record<string, unknown> => ({ ...thing })
const byName = ({ name }: { name: string }) => name

/** In this order they may be made: what comes later refers to what comes before. */
export const subjects: { readonly [S in Subject]: Definition<ThingOf[S]> } = {
  certificate: { read: reader('certificate', certificateContract), nameOf: byName, toColumns: same, json: ['despite'] },
  link: { read: reader('link', linkContract), nameOf: byName, toColumns: same, json: ['settings'] },
  outlet: { read: reader('outlet', outletContract), nameOf: byName, toColumns: same, json: ['settings'] },
  tag: {
    read: reader('tag', tagDraft),
    nameOf: ({ path }) => path,
    toColumns: ({ linkId, ...tag }) => ({ ...tag, link_id: linkId }),
    json: ['options', 'scaling', 'range'],
  },
}
export const subjectOrder = Object.keys(subjects) as Subject[]
