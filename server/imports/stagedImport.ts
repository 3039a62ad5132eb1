import { fault, type Fault } from '#core/faults/catalogue'
import type { ImportSettings, ImportStatus } from '#shared/imports'
import type { FileBefore } from '#shared/tagCsv/base'
import { TagPlan, type Planned, type WrittenLine } from '#shared/tagCsv/plan'
import { isFrom } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import { Turns } from '#pacing/turns'
import { asRefusal, Refusal } from '../answers/refusal'
import { siteTags } from '../tags/siteTags'
import { applyPlan } from './applyPlan'
import { linksNow, type LinksNow } from './linksNow'
import { keepProgramBase, programBase } from './programBases'
import { readTable } from './tableRead'

/** A planned line with its draft, about. */
const bytesOfLine = 1000

/** What is thrown where somebody put the import away. */
class PutAway extends Error {}

/** A table of tags that was sent: read and planned in turns with everything else, then applied, or put away. */
export class StagedImport {
  state: ImportStatus['state'] = 'reading'
  lines: readonly Planned[] = []
  links: LinksNow | null = null
  found: ImportStatus['found'] = null
  usedAt = Date.now()
  private before: string | null = null
  /** What stands in the lines, where that is to be remembered. */
  private written: readonly WrittenLine[] = []
  private done = 0
  private counts = noCounts()
  private kept = 0
  private fault: Fault | null = null
  private revision: number | null = null
  private isPutAway = false
  private work: Promise<unknown>

  constructor(
    readonly id: number,
    readonly name: string,
    readonly who: string,
    private bytes: Uint8Array,
    public settings: ImportSettings,
  ) {
    this.work = this.read()
  }

  get isBusy() {
    return this.state === 'reading' || this.state === 'applying'
  }

  /** About how much memory it takes, bytes. */
  get size() {
    return this.bytes.length + this.lines.length * bytesOfLine
  }

  status(): ImportStatus {
    const { id, name, who, state, done, settings, found, counts, kept, before, fault, revision } = this
    const lines = counts.added + counts.changed + counts.refused + counts.same
    return { id, name, who, state, done, settings, found, lines, counts, kept, before, fault, revision }
  }

  /** Resolves when what goes on is done, or after so long. */
  async wait(ms: number) {
    if (!this.isBusy || ms === 0) return
    let timer: NodeJS.Timeout | undefined
    await Promise.race([this.work, new Promise((resolve) => (timer = setTimeout(resolve, ms)))])
    clearTimeout(timer)
  }

  readAgain(settings: ImportSettings) {
    this.requireIdle()
    this.settings = settings
    this.fault = null
    this.work = this.read()
  }

  apply(without: ReadonlySet<string>) {
    this.requireIdle()
    const chosen = this.lines.filter((planned) => isWork(planned) && !without.has(planned.path))
    if (chosen.length === 0) throw new Refusal(fault('import.nothing', { name: this.name }))
    this.fault = null
    this.work = this.applied(chosen)
  }

  /** Stops what goes on, unless it is too late for that. @returns the revision that it became all the same */
  async putAway(): Promise<number | null> {
    this.isPutAway = true
    await this.work
    return this.revision
  }

  private requireIdle() {
    if (this.isBusy) throw new Refusal(fault('import.busy', { name: this.name }))
    if (this.revision !== null) throw new Refusal(fault('import.done', { name: this.name, revision: this.revision }))
  }

  /** Never rejects: what goes wrong is told with the status. @returns whether there is a plan */
  private async read(): Promise<boolean> {
    this.state = 'reading'
    this.done = 0
    this.found = null
    try {
      const [table, { tags }, links] = [readTable(this.name, this.bytes, this.settings), await siteTags.now(), await linksNow()]
      const before = await this.fileBefore()
      this.found = table.found
      if (table.why) throw new Refusal(table.why)
      const head = { columns: table.found.columns.map(({ column }) => column), decimal: table.found.decimal }
      const plan = new TagPlan(head, { tags, links, before: before?.file })
      const written: WrittenLine[] = []
      const turns = new Turns()
      for (const { records, read } of table.records()) {
        await turns.each(records, (record) => {
          plan.take(record)
          if (this.settings.program) written.push(plan.writtenIn(record))
        })
        this.progress(read / Math.max(1, table.length))
      }
      plan.end(this.isMissing(before?.file))
      this.before = before?.name ?? null
      this.written = written
      this.links = links
      this.lines = plan.lines
      this.counts = countsOf(plan.lines)
      this.kept = plan.lines.filter((line) => 'kept' in line && line.kept).length
      this.state = 'ready'
      return true
    } catch (error) {
      this.lines = []
      this.counts = noCounts()
      this.fail(error, 'unreadable')
      return false
    }
  }

  /** Of a program, what its file said before; null: it says so for the first time. */
  private async fileBefore() {
    const { program, link, below } = this.settings
    return program && link !== null ? programBase(link, below) : null
  }

  /** @param before tags that it did not make are somebody’s own, and stay */
  private isMissing(before: FileBefore | undefined) {
    const { missing, below, link } = this.settings
    if (missing === 'stay') return null
    const isBelow = (path: string) => below === '' || path.startsWith(`${below}/`)
    return (tag: Tag) => (before?.made(tag) ?? isBelow(tag.path)) && (link === null || (isFrom('point', tag) && tag.source.linkId === link))
  }

  private async applied(chosen: readonly Planned[]) {
    this.state = 'applying'
    this.done = 0
    try {
      this.revision = await applyPlan(this.name, this.who, chosen, this.links!, (done) => this.progress(done))
      await this.rememberFile(chosen)
      this.state = 'applied'
      this.done = 1
    } catch (error) {
      const isStale = error instanceof Refusal && ['import.stale', 'entry.taken'].includes(error.why.code)
      if (!isStale || (await this.read())) this.fail(error, 'ready')
    }
  }

  /** What was left out stays as it was before. */
  private async rememberFile(chosen: readonly Planned[]) {
    const { program, link, below } = this.settings
    if (!program || link === null) return
    const left = new Set(this.lines.filter((line) => isWork(line) && !chosen.includes(line)).map(({ path }) => path))
    await keepProgramBase(link, below, this.name, this.written, left)
  }

  private progress(done: number) {
    if (this.isPutAway) throw new PutAway()
    this.done = done
  }

  private fail(error: unknown, state: ImportStatus['state']) {
    this.state = state
    if (error instanceof PutAway) return
    this.fault = asRefusal(error).why
  }
}

const isWork = ({ what }: Planned) => what === 'added' || what === 'changed' || what === 'removed'

const noCounts = () => ({ added: 0, changed: 0, removed: 0, refused: 0, same: 0 })
const countsOf = (lines: readonly Planned[]) => {
  const counts = noCounts()
  for (const { what } of lines) counts[what]++
  return counts
}
