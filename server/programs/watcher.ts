import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { programPoints } from '#core/isotcp/program/points'
import { programTable } from '#core/isotcp/program/table'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import type { WatchedProgram } from '#core/isotcp/watched'
import { counted } from '#core/text/counted'
import { thingsOf } from '#db/rows'
import type { WatchedStatus } from '#shared/links/watchedStatus'
import type { ImportStatus } from '#shared/imports'
import { asRefusal } from '../answers/refusal'
import { importBook } from '../imports/importBook'
import { noteEvent } from '../journal/note'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

const everyMs = 3000
const planWithinMs = 120_000

interface Watched {
  key: string
  /** When the file was changed as it was looked into last. */
  seen: number | null
  importId: number | null
  status: WatchedStatus
}

/**
 * Files of programs that are looked into again and again. What a newer one comes to is a plan like that of any table: it
 * waits for somebody who looks at it, or is applied by itself, as its link says.
 */
class ProgramWatcher {
  private watched = new Map<number, Watched[]>()
  private timer: NodeJS.Timeout | null = null
  private isClosed = false

  start() {
    this.timer = setTimeout(() => void this.look(), everyMs)
  }

  close() {
    this.isClosed = true
    if (this.timer) clearTimeout(this.timer)
  }

  of(linkId: number): WatchedStatus[] {
    return (this.watched.get(linkId) ?? []).map(({ status }) => status)
  }

  private async look() {
    try {
      const rows = await database().selectFrom('link').selectAll().where('kind', '=', 'iso-tcp').execute()
      const links = thingsOf('link', rows)
      const there = new Set(links.map(({ id }) => id))
      for (const id of this.watched.keys()) if (!there.has(id)) this.watched.delete(id)
      for (const { id, name, settings } of links) await this.lookAt(id, name, (settings as IsoTcpSettings).programs)
    } catch {
      // database or engine are away; that is told elsewhere, and the files wait
    }
    if (!this.isClosed) this.start()
  }

  private async lookAt(id: number, link: string, programs: readonly WatchedProgram[]) {
    const before = new Map((this.watched.get(id) ?? []).map((one) => [one.key, one]))
    const now = programs.map((program) => {
      const key = JSON.stringify([program, link])
      return before.get(key) ?? newlyWatched(key, program)
    })
    this.watched.set(id, now)
    for (const [i, program] of programs.entries())
      await this.lookInto(now[i]!, program, id, link).catch((error: unknown) => {
        const { why } = asRefusal(error)
        // it is told elsewhere, and says nothing about the file
        if (why.code === 'engine.away') return
        now[i]!.seen = null
        say(now[i]!, 'unreadable', why.what, { fault: why })
      })
  }

  private async lookInto(one: Watched, program: WatchedProgram, id: number, link: string) {
    if (one.importId !== null && this.isSettled(one)) one.importId = null
    const { root, file } = program
    const found = await engineClient.call((engine) => engine.programFile({ root, file }, one.seen))
    if (isFault(found)) {
      one.seen = null
      return say(one, 'unreadable', found.what, { fault: found })
    }
    if (found.text === null) return
    one.seen = found.changedAt
    one.status.changedAt = found.changedAt
    const { points, problems } = programPoints(found.text, program)
    if (points.length === 0) {
      const problem = problems[0]?.text ?? 'it declares nothing that has an address'
      const why = fault('files.not-read', { way: file, problem })
      return say(one, 'unreadable', why.what, { fault: why })
    }
    await this.plan(one, program, { id, link, table: programTable(points, link) })
  }

  private async plan(
    one: Watched,
    { file, folder, missing, then }: WatchedProgram,
    { id, link, table }: { id: number; link: string; table: string },
  ) {
    // what waited is out of date
    if (one.importId !== null) await importBook.putAway(one.importId).catch(() => null)
    one.importId = null
    const how = { encoding: null, delimiter: null, decimal: null, header: null, columns: null }
    const settings = { ...how, missing, below: folder, link: id, program: true }
    const staged = importBook.add(file, `program of ${link}`.slice(0, 200), new TextEncoder().encode(table), settings)
    await staged.wait(planWithinMs)
    const status = staged.status()
    const { added, changed, removed, refused } = status.counts
    if (status.state !== 'ready') {
      one.seen = null
      await importBook.putAway(staged.id)
      return say(one, 'unreadable', status.fault?.what ?? 'Its plan was not there in time.', { fault: status.fault })
    }
    if (added + changed + removed === 0) {
      await importBook.putAway(staged.id)
      const text = refused === 0 ? 'It says what the tags say.' : `Nothing changes; ${counted(refused, 'line')} cannot be taken.`
      return say(one, 'same', text)
    }
    if (then === 'apply') {
      staged.apply(new Set())
      await staged.wait(planWithinMs)
      const after = staged.status()
      one.importId = staged.id
      if (after.state === 'applied') return say(one, 'applied', `${countsText(after)} by itself.`, { importId: staged.id })
      return say(one, 'waits', after.fault?.what ?? 'It could not be applied.', { fault: after.fault, importId: staged.id })
    }
    one.importId = staged.id
    say(one, 'waits', `${countsText(status)}, once somebody applies it.`, { importId: staged.id })
    await tell(link, `A newer file of its program, ${file}, says something else than the tags: ${countsText(status)}.`)
  }

  /** Somebody applied the plan or put it away; where it was only forgotten, the file is looked into anew. */
  private isSettled(one: Watched): boolean {
    if (one.status.state !== 'waits') return true
    const waiting = importBook.all().find(({ id }) => id === one.importId)
    if (waiting && waiting.status().state !== 'applied') {
      waiting.usedAt = Date.now()
      return false
    }
    if (waiting) say(one, 'same', 'It says what the tags say.')
    else one.seen = null
    return true
  }
}

const newlyWatched = (key: string, { file, folder }: WatchedProgram): Watched => ({
  ...{ key, seen: null, importId: null },
  status: { file, folder, state: 'looking', text: 'It is looked into.', changedAt: null, importId: null, fault: null },
})

const say = (one: Watched, state: WatchedStatus['state'], text: string, more: { fault?: Fault | null; importId?: number } = {}) => {
  one.status = { ...one.status, state, text, fault: more.fault ?? null, importId: more.importId ?? null }
}

const countsText = ({ counts: { added, changed, removed, refused } }: Pick<ImportStatus, 'counts'>): string =>
  [
    added > 0 && `${counted(added, 'tag')} added`,
    changed > 0 && `${changed.toLocaleString('en-GB')} changed`,
    removed > 0 && `${removed.toLocaleString('en-GB')} removed`,
    refused > 0 && `${refused.toLocaleString('en-GB')} refused`,
  ]
    .filter(Boolean)
    .join(', ')

const tell = (source: string, text: string) => noteEvent('caution', source, text)

export const programWatcher = new ProgramWatcher()
