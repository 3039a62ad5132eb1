import { dump, load } from 'js-yaml'
import { bridgeContract, type BridgeDraft } from './settings'

/** Bridges as text that can be carried elsewhere: links and outlets stand there by their names, as in the text of a site. */

export type PlaceKind = 'link' | 'outlet'
export interface Pasted {
  draft: BridgeDraft
  /** Names that nothing goes by here, as in: link “Quay”. */
  missing: string[]
}
export type ReadCopied = { ok: true; bridges: Pasted[] } | { ok: false; problem: string }

const mostText = 2_000_000
const mostBridges = 500
/** No link and no outlet has this number: what refers to it says that it is not there. */
const nobody = 2_000_000_000

export const copiedText = (bridges: readonly BridgeDraft[], nameOf: (of: PlaceKind, id: number) => string): string =>
  dump({ bridges: bridges.map((bridge) => named(bridge, nameOf)) }, { lineWidth: 120, noRefs: true })

const fieldOf: Record<string, PlaceKind> = { linkId: 'link', outletId: 'outlet' }

const named = (value: unknown, nameOf: (of: PlaceKind, id: number) => string): unknown => {
  if (Array.isArray(value)) return value.map((part) => named(part, nameOf))
  if (!isRecord(value)) return value
  return Object.fromEntries(
    Object.entries(value).map(([field, part]) => {
      const of = fieldOf[field]
      return of && typeof part === 'number' ? [of, nameOf(of, part)] : [field, named(part, nameOf)]
    }),
  )
}

/** Reads what `copiedText` wrote, or the part of a site’s text that holds bridges by their names. */
export const readCopied = (text: string, idOf: (of: PlaceKind, name: string) => number | undefined): ReadCopied => {
  if (text.length > mostText) return { ok: false, problem: 'This is too long to be a copy of bridges.' }
  const all = bridgesIn(text)
  if (typeof all === 'string') return { ok: false, problem: all }
  const bridges: Pasted[] = []
  for (const [i, one] of all.entries()) {
    const missing = new Set<string>()
    const read = bridgeContract.safeParse(numbered(one, idOf, missing))
    if (!read.success) {
      const [issue] = read.error.issues
      return { ok: false, problem: `Bridge ${i + 1}, ${issue!.path.join('.') || 'as a whole'}: ${issue!.message}` }
    }
    bridges.push({ draft: read.data, missing: [...missing] })
  }
  return { ok: true, bridges }
}

const noCopy = 'This is no copy of bridges: it begins with “bridges:”.'

const bridgesIn = (text: string): unknown[] | string => {
  try {
    const whole = load(text)
    const part = isRecord(whole) ? whole.bridges : undefined
    const all = isRecord(part) ? Object.entries(part).map(([name, rest]) => ({ name, ...(isRecord(rest) ? rest : {}) })) : part
    if (!Array.isArray(all) || all.length === 0) return noCopy
    return all.length > mostBridges ? `These are ${all.length} bridges; at most ${mostBridges} are taken at once.` : all
  } catch (error) {
    return `This is no YAML: ${(error as Error).message.split('\n')[0]!}`
  }
}

const numbered = (value: unknown, idOf: (of: PlaceKind, name: string) => number | undefined, missing: Set<string>): unknown => {
  if (Array.isArray(value)) return value.map((part) => numbered(part, idOf, missing))
  if (!isRecord(value)) return value
  return Object.fromEntries(
    Object.entries(value).map(([field, part]) => {
      if ((field !== 'link' && field !== 'outlet') || typeof part !== 'string') return [field, numbered(part, idOf, missing)]
      const id = idOf(field, part)
      if (id === undefined) missing.add(`${field} “${part}”`)
      return [`${field}Id`, id ?? nobody]
    }),
  )
}

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value)

/** A name that nobody has yet: with a number behind it where it is taken. */
export const freeName = (name: string, taken: readonly string[]): string => {
  const lower = new Set(taken.map((one) => one.toLowerCase()))
  for (let at = 1; ; at++) {
    const next = at === 1 ? name : `${name} (${at})`
    if (!lower.has(next.toLowerCase())) return next
  }
}
