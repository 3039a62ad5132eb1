import { mkdir, readFile, rename, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { z } from 'zod'
import type { Circumstances } from '#core/diagnosis/changes'
import { pathRecord, type PathKind, type PathRecord } from '#shared/diagnosis'

/** So many checks are kept of each path, and of all. */
const mostOfOne = 12
const mostOfAll = 500
const writeAfterMs = 2000

const circumstances: z.ZodType<Circumstances> = z.object({
  at: z.number(),
  revision: z.int(),
  address: z.string().nullable(),
  route: z.string().nullable(),
  hardware: z.string().nullable(),
  certificate: z.string().nullable(),
  ownCertificate: z.string(),
  peer: z.string().nullable(),
  clockAhead: z.number().nullable(),
  interfaces: z.array(z.string()),
  engineStarted: z.number(),
  clockSet: z.number(),
})
const kept = z.object({ n: z.int(), records: z.array(z.unknown()), good: z.array(z.tuple([z.string(), circumstances])) })

/**
 * The last checks of each path, and how it was when it last worked. It outlasts the engine in a file of its state folder; what
 * cannot be read or written of it is missed by nobody else.
 */
export class PathBook {
  private all: PathRecord[] = []
  private good = new Map<string, Circumstances>()
  private n = 0
  private timer: NodeJS.Timeout | null = null

  /** @param path null: in memory only */
  constructor(private path: string | null) {}

  async open() {
    const text = this.path && (await readFile(this.path, 'utf8').catch(() => null))
    if (!text) return
    const read = kept.safeParse(parsed(text))
    if (!read.success) return
    this.n = read.data.n
    this.good = new Map(read.data.good)
    this.all = read.data.records.flatMap((record) => {
      const one = pathRecord.safeParse(record)
      return one.success ? [one.data] : []
    })
  }

  add(record: Omit<PathRecord, 'n'>): PathRecord {
    const numbered = { ...record, n: ++this.n }
    const mine = this.of(record.of, record.id)
    const gone = mine.length >= mostOfOne ? mine.at(-1)! : this.all.length >= mostOfAll ? this.all[0]! : null
    this.all = [...this.all.filter((one) => one !== gone), numbered]
    this.writeSoon()
    return numbered
  }

  /** The newest first. */
  of(of: PathKind, id: number): PathRecord[] {
    return this.all.filter((one) => one.of === of && one.id === id).reverse()
  }

  /** Of all paths, the newest first. */
  last(most: number): PathRecord[] {
    return this.all.slice(-most).reverse()
  }

  goodOf(of: PathKind, id: number): Circumstances | null {
    return this.good.get(`${of} ${id}`) ?? null
  }

  worked(of: PathKind, id: number, how: Circumstances) {
    this.good.set(`${of} ${id}`, how)
    this.writeSoon()
  }

  forget(of: PathKind, id: number) {
    this.all = this.all.filter((one) => one.of !== of || one.id !== id)
    this.good.delete(`${of} ${id}`)
    this.writeSoon()
  }

  async close() {
    if (!this.timer) return
    clearTimeout(this.timer)
    this.timer = null
    await this.write()
  }

  private writeSoon() {
    if (!this.path || this.timer) return
    this.timer = setTimeout(() => {
      this.timer = null
      void this.write()
    }, writeAfterMs)
    this.timer.unref()
  }

  /** Aside first: who is killed meanwhile leaves the one before. */
  private async write() {
    const { path } = this
    if (!path) return
    try {
      await mkdir(dirname(path), { recursive: true })
      await writeFile(`${path}.new`, JSON.stringify({ n: this.n, records: this.all, good: [...this.good] }), { mode: 0o600 })
      await rename(`${path}.new`, path)
    } catch {
      // it is kept in memory, and tried again with the next check
    }
  }
}

const parsed = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
