import { readFileSync } from 'node:fs'
import { statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import { shortAt, stageOf, type DiskFacts, type Look, type Stage } from '#core/upkeep/disks'
import { steadyNow } from '#pacing/clock'
import { note } from '../disk/noteFile'

const lookEveryMs = 5000
/** What a forecast goes by. */
const noteEveryMs = 3_600_000
const mostLooks = 14 * 24

const noted = z.object({ looks: z.array(z.object({ at: z.number(), freeBytes: z.number() })) })

type Measure = (folder: string) => Promise<DiskFacts | null>

/** The disk that the state of this machine is on: how full it is, and when it will be short. */
export class DiskWatch {
  facts: DiskFacts | null = null
  stage: Stage = 'well'
  private looks: Look[]
  private path: string
  private notedAt = -Infinity
  private timer: NodeJS.Timeout

  constructor(
    readonly folder: string,
    private turned: (stage: Stage, before: Stage) => void,
    private measure: Measure = measureDisk,
  ) {
    this.path = join(folder, 'disk-looks.json')
    this.looks = looksIn(this.path)
    this.timer = setInterval(() => void this.look(), lookEveryMs)
    this.timer.unref()
  }

  /** When it is short at the pace of the last days; null: not known, or never. */
  get shortAt(): number | null {
    return this.facts && shortAt(this.looks, this.facts)
  }

  async look() {
    const facts = await this.measure(this.folder)
    if (!facts) return
    this.facts = facts
    const before = this.stage
    this.stage = stageOf(facts, before)
    if (this.stage !== before) this.turned(this.stage, before)
    if (steadyNow() - this.notedAt >= noteEveryMs) await this.note(facts)
  }

  close() {
    clearInterval(this.timer)
  }

  private async note({ freeBytes }: DiskFacts) {
    this.notedAt = steadyNow()
    // a clock that was set back would draw the line backwards
    const before = this.looks.filter(({ at }) => at < Date.now())
    this.looks = [...before, { at: Date.now(), freeBytes }].slice(-mostLooks)
    await note(this.path, { looks: this.looks })
  }
}

export const measureDisk: Measure = async (folder) => {
  const disk = await statfs(folder).catch(() => null)
  return disk && { bytes: disk.blocks * disk.bsize, freeBytes: disk.bavail * disk.bsize }
}

const looksIn = (path: string): Look[] => {
  try {
    return noted.parse(JSON.parse(readFileSync(path, 'utf8'))).looks
  } catch {
    return []
  }
}
