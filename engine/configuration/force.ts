import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { nameOf, type Subject, type ThingOf } from '#db/subjects'
import type { NotInForce } from '#shared/status'
import type { JournalWriter } from '../journal/journal'
import { nothingDifferent, type Difference, type Unread } from './site'

interface Open {
  subject: Subject
  shown: NotInForce
  /** The thing as it is meant to be; null: it could not be read. */
  thing: ThingOf[Subject] | null
}

/**
 * What is really in force, thing by thing. A change is tried for each thing by itself; one that
 * fails is noted here, with what is in force of it instead, and can be tried again.
 */
export class ForceBook {
  private open = new Map<string, Open>()

  constructor(private journal: JournalWriter) {}

  /**
   * Tries to bring one thing into force.
   * @param fallback the revision that stays in force where this fails; null: nothing of it is.
   */
  attempt<S extends Subject>(subject: S, thing: ThingOf[S], work: () => void, fallback: () => number | null = () => null): boolean {
    try {
      work()
      this.settle(subject, thing.id)
      return true
    } catch (error) {
      this.fail(subject, thing, error, fallback())
      return false
    }
  }

  fail<S extends Subject>(subject: S, thing: ThingOf[S], error: unknown, inForce: number | null) {
    const name = nameOf(subject, thing)
    const why = asFault(error) ?? fault('force.failed', { thing: subject, name, problem: textOf(error) }, evidenceOf(error))
    this.note(subject, { subject, id: thing.id, name, revision: thing.revision, inForce, fault: why, at: Date.now() }, thing)
  }

  /** It stays as it was. */
  unread({ subject, id, name, revision, problem }: Unread, inForce: number | null) {
    const why = fault('force.unreadable', { thing: subject, name: name || `number ${id}`, problem })
    this.note(subject, { subject, id, name, revision, inForce, fault: why, at: Date.now() }, null)
  }

  /** It is as configured, or not configured any more. */
  settle(subject: Subject, id: number) {
    const key = `${subject} ${id}`
    const known = this.open.get(key)
    if (!known) return
    this.open.delete(key)
    this.journal.note(known.shown.name, 'It is as configured now.')
  }

  /** Everything that is not as configured, the oldest first. */
  list(): NotInForce[] {
    return [...this.open.values()].map(({ shown }) => shown)
  }

  get count() {
    return this.open.size
  }

  /** What could be read and did not come into force, to be tried again. */
  again(revision: number): Difference {
    const difference = nothingDifferent(revision)
    for (const { subject, thing } of this.open.values()) if (thing) difference.parts[subject].set.push(thing as never)
    return difference
  }

  private note(subject: Subject, shown: NotInForce, thing: Open['thing']) {
    const key = `${shown.subject} ${shown.id}`
    const known = this.open.get(key)
    this.open.set(key, { subject, shown, thing })
    if (known?.shown.fault.what === shown.fault.what && known.shown.revision === shown.revision) return
    if (this.open.size <= mostTold) this.journal.trouble(shown.name, shown.fault.what, shown.fault)
  }
}

/** A fault of a whole import would fill the journal; the list on the site page has them all. */
const mostTold = 50

const asFault = (thing: unknown): Fault | null => (isFault(thing) ? thing : null)
const textOf = (error: unknown) => (error instanceof Error ? error.message : String(error))
const evidenceOf = (error: unknown) => (error instanceof Error ? (error.stack?.split('\n')[1]?.trim() ?? '') : '')
