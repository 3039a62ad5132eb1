import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { isSubject, subjectsInOrder, type Subject } from '#db/subjects'
import type { Mark } from '#db/stand'
import { LineFile } from '../disk/lineFile'
import { addStored, nothingDifferent, type Configuration, type Difference } from './site'

/** The form of the file itself; things inside are brought up by their own contracts. */
const form = 6
/** A file with more lines than this many times what it holds is written anew. */
const slack = 2
const leastSlack = 2000

type Line =
  | { form: number }
  | { set: Subject; thing: unknown }
  | { gone: Subject; id: number }
  | { revision: number; site?: unknown; at?: number | null }

export interface Kept {
  difference: Difference
  /** Which revision it is; null: not known, it was kept by an earlier version. */
  mark: Mark | null
}

/**
 * The engine's own copy of the configuration: what it starts from when the database is away. A file
 * of JSON lines, to which each difference is added, ending with its revision; what comes after the last
 * revision was cut off by a crash, and does not count.
 */
export class KeptCopy {
  private file: LineFile
  private olderFile: string

  constructor(folder: string) {
    this.file = new LineFile(join(folder, 'last-configuration.jsonl'))
    this.olderFile = join(folder, 'last-configuration.json')
  }

  /** Adds a difference; writes everything anew where there is no file yet, or too much of it is past. */
  async add(difference: Difference, all: Configuration, mark: Mark | null) {
    const lines = linesOf(difference, mark)
    const held = subjectsInOrder().reduce((total, subject) => total + all.things[subject].size, 0)
    const present = this.file.lines
    if (present === null || present + lines.length > slack * held + leastSlack)
      return this.file.replace([{ form } satisfies Line, ...linesOf(whole(all), mark)])
    await this.file.add(lines)
  }

  /** What the last run kept; null: nothing usable. */
  async read(): Promise<Kept | null> {
    const [lines, older] = await Promise.all([this.file.read(), readFile(this.olderFile, 'utf8').catch(() => null)])
    const kept = (lines ? keptIn(lines as (Line | null)[]) : null) ?? (older ? keptInOlder(older) : null)
    return kept && { difference: kept, mark: lines && markIn(lines as (Line | null)[]) }
  }

  /** Which revision it is, without all of it; null: not known. */
  async mark(): Promise<Mark | null> {
    const end = await this.file.end()
    if (end === null) return null
    return markIn(end as (Line | null)[]) ?? (await this.read())?.mark ?? null
  }

  close() {
    return this.file.close()
  }
}

const whole = (all: Configuration): Difference => {
  const difference = nothingDifferent(all.revision, all.site)
  for (const subject of subjectsInOrder()) difference.parts[subject].set = [...all.things[subject].values()] as never
  return difference
}

const linesOf = ({ revision, site, parts }: Difference, mark: Mark | null): Line[] => [
  ...subjectsInOrder().flatMap((set) => parts[set].set.map((thing) => ({ set, thing }))),
  ...subjectsInOrder().flatMap((gone) => parts[gone].removed.map((id) => ({ gone, id }))),
  { revision, ...(site !== null && { site }), at: mark?.revision === revision ? mark.at : null },
]

/** The last revision that it has as a whole. */
const markIn = (lines: readonly (Line | null)[]): Mark | null => {
  const line = lines.findLast((one) => one !== null && 'revision' in one) as { revision: number; at?: number | null } | undefined
  return line ? { revision: line.revision, at: line.at ?? null } : null
}

/** Reads up to the last line that ends a difference. */
export const keptIn = (lines: readonly (Line | null)[]): Difference | null => {
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
  const { revision } = lines[end] as { revision: number }
  const told = lines.findLast((line) => line !== null && 'site' in line)
  const kept = nothingDifferent(revision, (told as { site?: unknown } | undefined)?.site ?? null)
  for (const { subject, thing } of stored.values()) addStored(kept, subject, thing)
  return kept
}

/** Earlier versions kept one object with a list for each subject. */
const keptInOlder = (text: string): Difference | null => {
  const lists = objectIn(text)
  if (typeof lists?.revision !== 'number') return null
  const kept = nothingDifferent(lists.revision)
  for (const subject of subjectsInOrder()) {
    const things = lists[`${subject}s`]
    if (Array.isArray(things)) for (const thing of things) addStored(kept, subject, thing)
  }
  return kept
}

const objectIn = (text: string): Record<string, unknown> | null => {
  try {
    return JSON.parse(text) as Record<string, unknown> | null
  } catch {
    return null
  }
}
