/**
 * Flat names for consumers that take no depth, dots or spaces: one for each folder and tag, letters,
 * digits and `_` only, starting with a letter, unique whatever the case. A name depends on the path
 * alone; where two paths come to the same name the older one keeps it and the other gets a suffix
 * made from its path, so that a new tag never renames an old one.
 */
export interface Named {
  path: string
  /** Smaller is older: the id of a tag; of a folder, that of its oldest tag. */
  age: number
  /** Chosen by a person; null: made. */
  own: string | null
}

export interface ShortName {
  path: string
  name: string
  how: 'own' | 'made' | 'shortened' | 'made unique'
}

export interface ShortNames {
  byPath: ReadonlyMap<string, ShortName>
  byName: ReadonlyMap<string, ShortName>
  /** Own names that cannot be had, with the reason. Such a path goes by a made name. */
  problems: ReadonlyMap<string, string>
}

export const mostLetters = 64
export const leastMost = 12
const suffixLetters = 4

/** Says what is wrong with a name of one's own, or null. */
export const ownNameProblem = (name: string, most: number): string | null => {
  if (!/^[A-Za-z]/.test(name)) return 'A short name starts with a letter.'
  if (!/^\w+$/.test(name) || /[^\x00-\x7f]/.test(name)) return 'A short name has letters, digits and _ only.'
  if (name.length > most) return `A short name has at most ${most} characters here; this one has ${name.length}.`
  return null
}

/** Gives every path its name. @param most characters that the consumer takes. */
export const shortNamesOf = (all: readonly Named[], most = mostLetters): ShortNames => {
  const giver = new NameGiver(most)
  for (const _ of giver.giveAll(all)) continue
  return giver
}

/** Gives names one by one; what was given stays. */
export class NameGiver implements ShortNames {
  readonly byPath = new Map<string, ShortName>()
  readonly byName = new Map<string, ShortName>()
  readonly problems = new Map<string, string>()
  /** How many paths would go by this name if they had it for themselves. */
  private wanted = new Map<string, number>()
  /** A name was made unique in more than one try: who got which depends on all of them. */
  isTangled = false

  constructor(private most: number) {}

  /** Pauses now and then, so that others get their turn. */
  *giveAll(all: readonly Named[]): Generator<void> {
    const inOrder = [...all].sort((a, b) => a.age - b.age || (a.path < b.path ? -1 : 1))
    for (const { path, own } of inOrder) if (own !== null) this.giveOwn(path, own)
    for (const [i, { path }] of inOrder.entries()) {
      if (!this.byPath.has(path)) this.giveMade(path)
      if (i % namesInOneGo === 0) yield
    }
  }

  giveMade(path: string) {
    const { name, cut } = fitted(path, this.most)
    const key = keyOf(name)
    this.wanted.set(key, (this.wanted.get(key) ?? 0) + 1)
    if (!this.byName.has(key)) return this.give(path, name, cut ? 'shortened' : 'made')
    for (let salt = 0; ; salt++) {
      const unique = `${name.slice(0, this.most - suffixLetters - 1)}_${suffixOf(path, salt)}`
      if (!this.byName.has(keyOf(unique))) return this.give(path, unique, 'made unique')
      this.isTangled = true
    }
  }

  /** Whether somebody else has, or would have, the name that is made from this path. */
  isContested(path: string): boolean {
    const key = keyOf(fitted(path, this.most).name)
    const holder = this.byName.get(key)
    const mine = this.byPath.has(path) ? 1 : 0
    return (holder !== undefined && holder.path !== path) || (this.wanted.get(key) ?? 0) > mine
  }

  /** Takes a name back that nobody contests. */
  takeBack(path: string) {
    const given = this.byPath.get(path)
    if (!given) return
    this.byPath.delete(path)
    this.byName.delete(keyOf(given.name))
    this.wanted.delete(keyOf(fitted(path, this.most).name))
  }

  private giveOwn(path: string, own: string) {
    const holder = this.byName.get(keyOf(own))
    const problem = ownNameProblem(own, this.most) ?? (holder ? `“${own}” belongs to ${holder.path} already.` : null)
    if (problem) this.problems.set(path, problem)
    else this.give(path, own, 'own')
  }

  private give(path: string, name: string, how: ShortName['how']) {
    const given = { path, name, how }
    this.byPath.set(path, given)
    this.byName.set(keyOf(name), given)
  }
}

const namesInOneGo = 500

/** Names are found whatever their case. */
export const keyOf = (name: string) => name.toLowerCase()

/** Folders give way one by one, the outermost first, each down to its first letter; the last name stays as long as it can. */
const fitted = (path: string, most: number): { name: string; cut: boolean } => {
  const parts = path.split('/').map(plain)
  let name = withLetterFirst(parts.join('_'))
  const cut = name.length > most
  for (let i = 0; i < parts.length - 1 && name.length > most; i++) {
    parts[i] = parts[i]!.slice(0, 1)
    name = withLetterFirst(parts.join('_'))
  }
  return { name: name.slice(0, most), cut }
}

const plain = (part: string) => (/^[A-Za-z0-9](\w*[A-Za-z0-9])?$/.test(part) && !part.includes('__') ? part : spelledPlain(part))

const spelledPlain = (part: string) =>
  part
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^A-Za-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '') || 'x'

const withLetterFirst = (name: string) => (/^[A-Za-z]/.test(name) ? name : `t_${name}`)

const letters = 'abcdefghijkmnpqrstuvwxyz23456789'

/** Four letters from the path: FNV-1a over its UTF-16 units, five bits a letter. */
const suffixOf = (path: string, salt: number): string => {
  let hash = 0x811c9dc5 ^ salt
  for (let i = 0; i < path.length; i++) hash = Math.imul(hash ^ path.charCodeAt(i), 0x01000193) >>> 0
  return Array.from({ length: suffixLetters }, (_, i) => letters[(hash >>> (i * 5)) & 31]).join('')
}

/** Tags and all folders above them, each with its age. */
export const withFolders = (
  tags: readonly { id: number; path: string; own: string | null }[],
  folders: ReadonlyMap<string, string>,
): Named[] => {
  const ages = new Map<string, number>()
  for (const { id, path } of tags) for (const folder of foldersAbove(path)) ages.set(folder, Math.min(ages.get(folder) ?? Infinity, id))
  const tagPaths = new Set(tags.map(({ path }) => path))
  return [
    ...tags.map(({ id, path, own }) => ({ path, age: id, own })),
    ...[...ages].filter(([path]) => !tagPaths.has(path)).map(([path, age]) => ({ path, age, own: folders.get(path) ?? null })),
  ]
}

/** The innermost first. */
export function* foldersAbove(path: string): Generator<string> {
  for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1)) yield path.slice(0, at)
}
