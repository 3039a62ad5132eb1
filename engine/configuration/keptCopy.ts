import { open, readFile, rename, type FileHandle } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { parted } from '#core/lists/parted'
import { isSubject, subjectsInOrder, type Subject } from '#db/subjects'
import { nextTurn } from '../turns'
import { addStored, nothingDifferent, type Configuration, type Difference } from './site'

/** The form of the file itself; things inside are brought up by their own contracts. */
const form = 6
const linesAtOnce = 500
/** A file with more lines than this many times what it holds is written anew. */
const slack = 2
const leastSlack = 2000

type Line = { form: number } | { set: Subject; thing: unknown } | { gone: Subject; id: number } | { revision: number }

/**
 * The engine's own copy of the configuration: what it starts from when the database is away. A file
 * of JSON lines, to which each difference is added, ending with its revision; what comes after the last
 * revision was cut off by a crash, and does not count. Everything is on the disk before it is believed.
 */
export class KeptCopy {
  private file: string
  private handle: FileHandle | null = null
  private lines = 0
  private olderFile: string

  constructor(folder: string) {
    this.file = join(folder, 'last-configuration.jsonl')
    this.olderFile = join(folder, 'last-configuration.json')
  }

  /** Adds a difference; writes everything anew where there is no file yet, or too much of it is past. */
  async add(difference: Difference, all: Configuration) {
    const lines = linesOf(difference)
    const held = subjectsInOrder().reduce((total, subject) => total + all.things[subject].size, 0)
    if (!this.handle || this.lines + lines.length > slack * held + leastSlack) return this.writeWhole(all)
    await append(this.handle, lines)
    await this.handle.datasync()
    this.lines += lines.length
  }

  /** What the last run kept; null: nothing usable. */
  async read(): Promise<Difference | null> {
    const [text, older] = await Promise.all([this.file, this.olderFile].map((file) => readFile(file, 'utf8').catch(() => null)))
    return (text ? keptIn(text) : null) ?? (older ? keptInOlder(older) : null)
  }

  async close() {
    await this.handle?.close().catch(() => {})
    this.handle = null
  }

  /** Aside, onto the disk, and only then in the place of the one before. */
  private async writeWhole(all: Configuration) {
    await this.close()
    const aside = `${this.file}.new`
    const handle = await open(aside, 'w', 0o600)
    try {
      const lines = linesOf(whole(all))
      await append(handle, [{ form }, ...lines])
      await handle.sync()
      await rename(aside, this.file)
      await syncFolder(dirname(this.file))
      this.lines = lines.length
      this.handle = handle
    } catch (error) {
      await handle.close().catch(() => {})
      throw error
    }
  }
}

/** A new name is safe only once the folder that holds it is. */
const syncFolder = async (folder: string) => {
  const handle = await open(folder, 'r')
  await handle.sync().finally(() => handle.close())
}

const append = async (handle: FileHandle, lines: readonly Line[]) => {
  for (const part of parted(lines, linesAtOnce)) {
    await handle.appendFile(part.map((line) => `${JSON.stringify(line)}\n`).join(''))
    await nextTurn()
  }
}

const whole = (all: Configuration): Difference => {
  const difference = nothingDifferent(all.revision)
  for (const subject of subjectsInOrder()) difference.parts[subject].set = [...all.things[subject].values()] as never
  return difference
}

const linesOf = ({ revision, parts }: Difference): Line[] => [
  ...subjectsInOrder().flatMap((set) => parts[set].set.map((thing) => ({ set, thing }))),
  ...subjectsInOrder().flatMap((gone) => parts[gone].removed.map((id) => ({ gone, id }))),
  { revision },
]

/** Reads up to the last line that ends a difference. */
export const keptIn = (text: string): Difference | null => {
  const lines = text.split('\n').map(parsed)
  if ((lines[0] as { form?: number } | null)?.form !== form) return null
  const end = lines.findLastIndex((line) => line !== null && 'revision' in line)
  if (end < 0) return null
  const stored = new Map<string, { subject: Subject; thing: unknown }>()
  for (const line of lines.slice(1, end)) {
    if (line === null) return null
    if ('set' in line && isSubject(line.set))
      stored.set(`${line.set} ${String((line.thing as { id?: unknown } | null)?.id)}`, { subject: line.set, thing: line.thing })
    else if ('gone' in line) stored.delete(`${line.gone} ${line.id}`)
  }
  const kept = nothingDifferent((lines[end] as { revision: number }).revision)
  for (const { subject, thing } of stored.values()) addStored(kept, subject, thing)
  return kept
}

/** Earlier versions kept one object with a list for each subject. */
const keptInOlder = (text: string): Difference | null => {
  const lists = parsed(text) as Record<string, unknown> | null
  if (typeof lists?.revision !== 'number') return null
  const kept = nothingDifferent(lists.revision)
  for (const subject of subjectsInOrder()) {
    const things = lists[`${subject}s`]
    if (Array.isArray(things)) for (const thing of things) addStored(kept, subject, thing)
  }
  return kept
}

const parsed = (text: string): Line | null => {
  try {
    const line: unknown = JSON.parse(text)
    return typeof line === 'object' && line !== null ? (line as Line) : null
  } catch {
    return null
  }
}
