import type { Kysely } from 'kysely'
import { thingOf } from '#db/rows'
import type { TagSource } from '#shared/sources/registry'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import type { Database } from '#db/tables'
import { grouped } from '#core/lists/grouped'
import { counted } from '#core/text/counted'
import type { JournalWriter } from '../journal/journal'
import { Backoff } from '#pacing/backoff'

/** An address that may mean another point later, and what it stands for now. */
export interface LastingAddress {
  id: number
  linkId: number
  passing: string
  lasting: string
}

/**
 * Saves what links found out about addresses that last. While the database is away it waits: the links
 * remember meanwhile by themselves.
 */
export class LastingAddresses {
  private waiting = new Map<number, LastingAddress>()
  private backoff = new Backoff(500, 30_000)
  private timer: NodeJS.Timeout | null = null
  private saving = false
  private closed = false

  constructor(
    private db: Kysely<Database>,
    private journal: JournalWriter,
  ) {}

  keep(found: readonly LastingAddress[]) {
    for (const address of found) this.waiting.set(address.id, address)
    if (!this.timer) void this.save()
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
  }

  private async save() {
    this.timer = null
    if (this.saving || this.closed) return
    this.saving = true
    const found = [...this.waiting.values()]
    try {
      for (const [linkId, mine] of grouped(found, ({ linkId }) => linkId)) await this.saveOf(linkId, mine)
      this.backoff.reset()
      if (this.waiting.size > 0) this.later()
    } catch (error) {
      if (!this.closed) this.journal.caution('Engine', `Lasting addresses could not be saved yet: ${(error as Error).message}`)
      this.later()
    } finally {
      this.saving = false
    }
  }

  private later() {
    if (!this.closed) this.timer ??= setTimeout(() => void this.save(), this.backoff.next())
  }

  private async saveOf(linkId: number, found: readonly LastingAddress[]) {
    const kept = await replaced(this.db, linkId, found)
    for (const address of found) if (this.waiting.get(address.id) === address) this.waiting.delete(address.id)
    if (kept > 0)
      this.journal.note(
        'Engine',
        `${counted(kept, 'tag')} went by the number of a namespace, which the server may change; the URI took its place.`,
      )
  }
}

class NothingLeft extends Error {}

/** How many were replaced; where none is left to be, there is no revision either. */
const replaced = async (db: Kysely<Database>, linkId: number, found: readonly LastingAddress[]): Promise<number> => {
  try {
    const { result } = await changeConfiguration(db, 'Engine', '', (editor) => replace(editor, linkId, found))
    return result
  } catch (error) {
    if (error instanceof NothingLeft) return 0
    throw error
  }
}

/** Only where the tag still is what the link saw; somebody may have changed it since. */
const replace = async (editor: Editor, linkId: number, found: readonly LastingAddress[]): Promise<number> => {
  const wanted = new Map(found.map((address) => [address.id, address]))
  const rows = await editor.rows('tag', [...wanted.keys()])
  const same = rows.filter((row) => row.link_id === linkId && row.address === wanted.get(row.id)!.passing)
  if (same.length === 0) throw new NothingLeft()
  for (const row of same) {
    const { source } = thingOf('tag', row)
    await editor.update('tag', row, { source: { ...source, address: wanted.get(row.id)!.lasting } as TagSource })
  }
  editor.what = `Kept the addresses of ${counted(same.length, 'tag')} by the URIs of their namespaces`
  return same.length
}
