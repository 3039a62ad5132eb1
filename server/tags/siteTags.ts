import { readable, thingOf } from '#db/rows'
import { changedSince } from '#db/since'
import type { Tag } from '#shared/tags'
import { inTurns } from '#pacing/turns'
import { database } from '../store/database'

/** More of them than this, and reading everything is cheaper. */
const mostFollowed = 20_000

export interface TagsNow {
  revision: number
  /** By path. */
  tags: ReadonlyMap<string, Tag>
}

/**
 * Every tag of the site, kept here and brought up to date by what changed since somebody last asked: what looks through
 * all of them does not read all of them from the database each time.
 */
class SiteTags {
  private revision = -1
  private byId = new Map<number, Tag>()
  private byPath: Map<string, Tag> | null = null
  private last: Promise<unknown> = Promise.resolve()

  /** As they are now. What is given stays as it is, whatever changes later. */
  now(): Promise<TagsNow> {
    const mine = this.last.then(() => this.upToDate())
    this.last = mine.catch(() => {})
    return mine
  }

  private async upToDate(): Promise<TagsNow> {
    const { revision } = await database().selectFrom('site').select('revision').executeTakeFirstOrThrow()
    if (revision !== this.revision) await this.follow()
    this.byPath ??= new Map([...this.byId.values()].map((tag) => [tag.path, tag]))
    return { revision: this.revision, tags: this.byPath }
  }

  private async follow() {
    const since = this.revision < 0 ? null : await changedSince(database(), this.revision, mostFollowed, ['tag'])
    if (since === null) return this.readAll()
    for (const { rows, removed } of since.things) {
      for (const id of removed) this.byId.delete(id)
      await inTurns(rows, (row) => this.take(row, this.byId))
      this.byPath = null
    }
    this.revision = since.revision
  }

  /** What cannot be read is left out: the engine's status names it. */
  private take(row: unknown, into: Map<number, Tag>) {
    const [tag] = readable([row], (one) => thingOf('tag', one))
    if (tag) into.set(tag.id, tag)
    else into.delete((row as { id: number }).id)
  }

  private async readAll() {
    const { revision, rows } = await database()
      .transaction()
      .setIsolationLevel('repeatable read')
      .execute(async (db) => {
        const site = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
        return { revision: site.revision, rows: await db.selectFrom('tag').selectAll().execute() }
      })
    const found = new Map<number, Tag>()
    await inTurns(rows, (row) => this.take(row, found))
    this.byId = found
    this.byPath = null
    this.revision = revision
  }
}

export const siteTags = new SiteTags()
