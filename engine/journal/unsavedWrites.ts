import { closeSync, existsSync, ftruncateSync, openSync, readFileSync, writeSync } from 'node:fs'
import { z } from 'zod'
import { fault, type Fault } from '#core/faults/catalogue'
import { writer } from '#shared/writes'
import type { BegunWrite, WriteRecord } from './journal'

const begunContract = writer.extend({
  key: z.uuid(),
  at: z.coerce.date(),
  tagId: z.int().nullable(),
  path: z.string(),
  before: z.string().nullable(),
  value: z.string(),
})
const endContract = z.object({ key: z.uuid(), fault: z.looseObject({ code: z.string(), what: z.string() }).nullable(), ms: z.number() })
const lineContract = z.union([z.object({ begun: begunContract }), z.object({ end: endContract })])
type Line = { begun: BegunWrite } | { end: { key: string; fault: Fault | null; ms: number } }

/** Past this the file is written anew with what still waits: it does not grow while the database is away. */
const mostLines = 20_000

/**
 * Writes on their way into the database, in a file as well: what an engine that is killed had not handed on, the
 * next one does. A line is added before a value leaves for the plant, and another one when its outcome is known.
 */
export class UnsavedWrites {
  private file: number | null = null
  private lines = 0

  constructor(private path: string) {}

  /** What the engine before this one left behind, in order. */
  leftBehind(): WriteRecord[] {
    if (!existsSync(this.path)) return []
    const records = new Map<string, WriteRecord>()
    for (const line of linesIn(readFileSync(this.path, 'utf8'))) {
      if ('begun' in line) records.set(line.begun.key, { ...line.begun, ms: 0, fault: cutOff(line.begun.path) })
      else Object.assign(records.get(line.end.key) ?? {}, line.end)
    }
    return [...records.values()]
  }

  begin(begun: BegunWrite) {
    this.add({ begun })
  }

  end(key: string, why: Fault | null, ms: number) {
    this.add({ end: { key, fault: why, ms } })
  }

  /** Whether it is time to say with `keepOnly` what still waits. */
  get isLong() {
    return this.lines > mostLines
  }

  /** Forgets all but these. */
  keepOnly(begun: Iterable<BegunWrite>, ended: readonly WriteRecord[]) {
    if (this.file === null && !existsSync(this.path)) return
    ftruncateSync(this.open(), 0)
    this.lines = 0
    for (const record of begun) this.begin(record)
    for (const { ms, fault: why, ...record } of ended) {
      this.begin(record)
      this.end(record.key, why, ms)
    }
  }

  close() {
    if (this.file !== null) closeSync(this.file)
    this.file = null
  }

  /** At once and not by and by: a process that is killed has nothing by and by. */
  private add(line: Line) {
    writeSync(this.open(), `${JSON.stringify(line)}\n`)
    this.lines++
  }

  private open() {
    return (this.file ??= openSync(this.path, 'a', 0o600))
  }
}

/** Lines that are whole and understood; the last one may have been cut off. */
const linesIn = (text: string): Line[] =>
  text.split('\n').flatMap((line) => {
    try {
      const parsed = lineContract.safeParse(JSON.parse(line))
      return parsed.success ? [parsed.data as Line] : []
    } catch {
      return []
    }
  })

const cutOff = (path: string) => fault('write.unknown', { path, problem: 'the engine ended while it was under way' })
