import { z } from 'zod'
import { dataTypes, isArrayType, isWide, elementOf, type DataType, type ScalarValue, type TagValue } from '#core/tags/types'
import { LineFile } from '../disk/lineFile'
import type { Operation } from '../disk/orderedStore'

/** What was written last to a tag that lives here. */
export interface KeptValue {
  type: DataType
  value: TagValue
  /** Unix milliseconds. */
  at: number
  who: string
}

const scalar = z.union([z.boolean(), z.number(), z.string()])
const setLine = z.object({
  set: z.int(),
  type: z.enum(dataTypes),
  value: z.union([scalar, z.array(scalar)]),
  at: z.number(),
  who: z.string(),
})
const lineContract = z.union([setLine, z.object({ gone: z.int() })])
type Line = z.output<typeof lineContract>

interface Waiting {
  lines: Line[]
  done(error: Error | null): void
}

/** Past this many lines more than values the file is written anew. */
const slack = 2000

/**
 * The values of memory tags on the engine's disk, by the id of the tag. A value is kept once it is on the disk; what
 * comes while others are on their way goes together with what else waits then.
 */
export class MemoryStore {
  private values = new Map<number, KeptValue>()
  private file: LineFile
  private waiting: Waiting[] = []
  private busy: Promise<void> | null = null
  private told: (operations: readonly Operation[]) => void = () => {}

  constructor(path: string) {
    this.file = new LineFile(path)
  }

  /** Reads what was kept. Rejects where the disk fails; values that can be read are there all the same. */
  async open() {
    for (const line of (await this.file.read()) ?? []) {
      const read = lineContract.safeParse(line)
      if (read.success) this.remember(read.data)
    }
    await this.file.replace(this.all())
  }

  /** Hears of all that got on the disk. */
  listen(told: (operations: readonly Operation[]) => void) {
    this.told = told
  }

  /** All values, as they are told. */
  *entries(): Generator<[string, string]> {
    for (const line of this.all()) if ('set' in line) yield [String(line.set), JSON.stringify(line)]
  }

  /** Takes values that another machine told; of each tag the later one stays. */
  async take(told: readonly string[]) {
    const lines = told.flatMap((text) => {
      const read = setLine.safeParse(parsed(text))
      return read.success && read.data.at > (this.values.get(read.data.set)?.at ?? -Infinity) ? [read.data] : []
    })
    await this.add(lines)
  }

  get(id: number): KeptValue | undefined {
    return this.values.get(id)
  }

  get waitingCount() {
    return this.waiting.length
  }

  /** Resolves when it is on the disk. */
  keep(id: number, { type, value, at, who }: KeptValue): Promise<void> {
    return this.add([{ set: id, type, value: toLine(value), at, who }])
  }

  forget(ids: readonly number[]): Promise<void> {
    return this.add(ids.filter((id) => this.values.has(id)).map((gone) => ({ gone })))
  }

  async close() {
    await this.busy
    await this.file.close()
  }

  private add(lines: Line[]): Promise<void> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ lines, done: (error) => (error ? reject(error) : resolve()) })
      this.busy ??= this.work().finally(() => (this.busy = null))
    })
  }

  private async work() {
    while (this.waiting.length > 0) {
      const batch = this.waiting.splice(0)
      const lines = batch.flatMap((one) => one.lines)
      const error = await this.write(lines).then(
        () => null,
        (problem: Error) => problem,
      )
      if (!error) {
        lines.forEach((line) => this.remember(line))
        this.told(lines.map(operationOf))
      }
      for (const { done } of batch) done(error)
    }
  }

  private async write(lines: readonly Line[]) {
    const present = this.file.lines
    if (present !== null && present + lines.length <= 2 * this.values.size + slack) return this.file.add(lines)
    await this.file.replace([...this.all(), ...lines])
  }

  private all(): Line[] {
    return [...this.values].map(([set, { value, ...kept }]) => ({ set, value: toLine(value), ...kept }))
  }

  private remember(line: Line) {
    if ('gone' in line) return void this.values.delete(line.gone)
    const { set, type, value, at, who } = line
    this.values.set(set, { type, value: fromLine(value, type), at, who })
  }
}

const operationOf = (line: Line): Operation =>
  'gone' in line ? { type: 'del', key: String(line.gone) } : { type: 'put', key: String(line.set), value: JSON.stringify(line) }

const parsed = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

/** JSON has no 64-bit integers and no NaN: they go as text. */
const toLine = (value: TagValue): ScalarInLine | ScalarInLine[] =>
  Array.isArray(value) ? (value as readonly ScalarValue[]).map(scalarToLine) : scalarToLine(value as ScalarValue)
type ScalarInLine = boolean | number | string
const scalarToLine = (value: ScalarValue): ScalarInLine =>
  typeof value === 'bigint' || (typeof value === 'number' && !Number.isFinite(value)) ? String(value) : value

const fromLine = (value: ScalarInLine | ScalarInLine[], type: DataType): TagValue => {
  const read = (one: ScalarInLine): ScalarValue => {
    if (isWide(elementOf(type))) return BigInt(one)
    return typeof one === 'string' && elementOf(type) !== 'string' ? Number(one) : one
  }
  return isArrayType(type) && Array.isArray(value) ? value.map(read) : read(value as ScalarInLine)
}
