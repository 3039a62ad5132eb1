import { z } from 'zod'
import { isSubject } from '#db/subjects'
import type { ShareTaken } from '#shared/nodeRpc'
import { KeptCopy } from '../configuration/keptCopy'
import { addStored, nothingDifferent, type Configuration, type Difference } from '../configuration/site'
import type { JournalWriter } from '../journal/journal'

const partContract = z.object({
  revision: z.int(),
  site: z.unknown(),
  set: z.record(z.string(), z.array(z.unknown())),
  removed: z.record(z.string(), z.array(z.int())),
  more: z.boolean(),
})

interface Around {
  stateFolder: string
  journal: JournalWriter
  /** As it is meant to be now; `apply` brings it up to each difference. */
  known: Readonly<Configuration>
  apply(difference: Difference): Promise<void>
  /** Secrets come sealed for this node; here they are kept sealed for this machine. */
  resealed(thing: unknown): unknown
}

/** The configuration as the site tells it, kept on the disk of this machine: it starts, and goes on, by that. */
export class SiteFeed {
  private kept: KeptCopy
  private open: Difference | null = null
  private taking: Promise<unknown> = Promise.resolve()

  constructor(private around: Around) {
    this.kept = new KeptCopy(around.stateFolder)
  }

  /** Resolves once what was kept is applied. */
  async start() {
    const kept = await this.kept.read()
    if (kept) await this.around.apply(kept.difference)
    else this.around.journal.note('Engine', 'Nothing is configured here yet: waits for the site.')
  }

  /** The site came again: what it had begun to tell does not count. */
  begin() {
    this.open = null
  }

  /** One part of a change after the other; with the last of them it is brought into force. */
  take(given: unknown): Promise<ShareTaken | null> {
    const taken = this.taking.then(() => this.takeNow(given))
    this.taking = taken.catch(() => {})
    return taken
  }

  async close() {
    await this.taking
    await this.kept.close()
  }

  private async takeNow(given: unknown): Promise<ShareTaken | null> {
    const { revision, site, set, removed, more } = partContract.parse(given)
    const difference = (this.open ??= nothingDifferent(revision))
    for (const [subject, things] of Object.entries(set))
      if (isSubject(subject)) for (const thing of things) addStored(difference, subject, this.around.resealed(thing))
    for (const [subject, ids] of Object.entries(removed)) if (isSubject(subject)) difference.parts[subject].removed.push(...ids)
    if (more) return null
    this.open = null
    difference.revision = revision
    difference.site = nothingDifferent(revision, site).site
    await this.around.apply(difference)
    await this.keepOnDisk(difference)
    return { revision, unread: difference.unread.map(({ subject, id }) => ({ subject, id })) }
  }

  private async keepOnDisk(difference: Difference) {
    try {
      await this.kept.add(difference, this.around.known, null)
    } catch (error) {
      await this.kept.close()
      this.around.journal.caution('Engine', `The configuration could not be kept on the disk of this node: ${(error as Error).message}`)
    }
  }
}
