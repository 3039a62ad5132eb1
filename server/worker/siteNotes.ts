import type { Kysely } from 'kysely'
import { protocolOf } from '#core/links/registry'
import { NoteBook } from '#core/notes/book'
import { noteKinds, type Note, type NoteKind } from '#core/notes/kinds'
import type { Spot } from '#core/notes/spot'
import { naturalKey } from '#core/text/naturalKey'
import { readable, thingOf } from '#db/rows'
import { changedSince, type ChangedThings } from '#db/since'
import type { Database } from '#db/tables'
import type { Link } from '#shared/links/link'
import type { Finding, TagNote } from '#shared/notes'
import { pointOf } from '#shared/sources/point'
import { isFrom } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'

/** More of them than this, and reading everything is cheaper. */
const mostFollowed = 20_000

export interface ListedNote extends TagNote {
  id: number
  path: string
}

export interface NotesAsked {
  words: string[]
  kind: NoteKind | null
  accepted: boolean
  sort: 'path' | 'kind'
  isDown: boolean
  offset: number
  limit: number
}

export interface NotesPage {
  total: number
  items: ListedNote[]
  kinds: Partial<Record<NoteKind, number>>
}

/** The notes on all tags of the site, brought up to date by what changed since somebody last asked. Lives in a worker. */
export class SiteNotes {
  private revision = -1
  private links = new Map<number, Link>()
  private book = new NoteBook<Tag>((tag) => this.spotOf(tag))
  private last: Promise<unknown> = Promise.resolve()

  constructor(private db: Kysely<Database>) {}

  /** Brings it up to date; calls that come meanwhile wait. */
  follow(): Promise<void> {
    const mine = this.last.then(() => this.followNow())
    this.last = mine.catch(() => {})
    return mine
  }

  link(id: number): Link | undefined {
    return this.links.get(id)
  }

  tags(): IterableIterator<Tag> {
    return this.book.all()
  }

  notesOf(ids: readonly number[], findings: readonly Finding[]): Record<number, TagNote[]> {
    const found: Record<number, TagNote[]> = {}
    const seen = byTag(findings)
    for (const id of ids) {
      const tag = this.book.tag(id)
      const notes = tag ? [...this.book.notesOf(id), ...(seen.get(id) ?? [])] : []
      if (tag && notes.length > 0) found[id] = notes.map((one) => told(one, tag))
    }
    return found
  }

  /** Tags with notes that nobody accepted. */
  noted(findings: readonly Finding[]): number[] {
    const open = this.listed(findings).filter(({ accepted }) => accepted === null)
    return [...new Set(open.map(({ id }) => id))]
  }

  page(asked: NotesAsked, findings: readonly Finding[]): NotesPage {
    const all = this.listed(findings).filter(
      ({ accepted, path, text }) =>
        (accepted !== null) === asked.accepted && asked.words.every((word) => `${path} ${text}`.toLowerCase().includes(word)),
    )
    const kinds: Partial<Record<NoteKind, number>> = {}
    for (const { kind } of all) kinds[kind] = (kinds[kind] ?? 0) + 1
    const chosen = asked.kind === null ? all : all.filter(({ kind }) => kind === asked.kind)
    const keyed = chosen.map((one) => ({ one, key: `${asked.sort === 'kind' ? `${one.kind} ` : ''}${naturalKey(one.path)}` }))
    keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0) * (asked.isDown ? -1 : 1))
    const items = keyed.slice(asked.offset, asked.offset + asked.limit).map(({ one }) => one)
    return { total: chosen.length, items, kinds }
  }

  preview(draft: Omit<Tag, 'id' | 'revision'>, id: number | null): TagNote[] {
    const tag: Tag = { ...draft, id: id ?? 0, revision: 0 }
    return this.book.preview(tag, id).map((one) => told(one, tag))
  }

  private listed(findings: readonly Finding[]): ListedNote[] {
    const listed: ListedNote[] = []
    const add = (tag: Tag, notes: readonly Note[]) => {
      for (const one of notes) listed.push({ ...told(one, tag), id: tag.id, path: tag.path })
    }
    for (const [tag, notes] of this.book.noted()) add(tag, notes)
    for (const [id, notes] of byTag(findings)) {
      const tag = this.book.tag(id)
      if (tag) add(tag, notes)
    }
    return listed
  }

  private spotOf(tag: Tag): Spot | null {
    if (!isFrom('point', tag)) return null
    const link = this.links.get(tag.source.linkId)
    const spot = link ? protocolOf(link.kind).spot(pointOf(tag), link.settings) : null
    return spot && { ...spot, place: `${link!.id} ${spot.place}` }
  }

  private async followNow() {
    const { revision } = await this.db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
    if (revision === this.revision) return
    const since = this.revision < 0 ? null : await changedSince(this.db, this.revision, mostFollowed, ['link', 'tag'])
    if (!since) return this.readAll()
    for (const things of since.things) if (things.subject === 'link') this.followLinks(things)
    for (const { subject, rows, removed } of since.things) if (subject === 'tag') this.book.change(tagsIn(rows), removed)
    this.revision = since.revision
  }

  /** Other settings may place all points of a link elsewhere. */
  private followLinks({ rows, removed }: ChangedThings) {
    for (const id of removed) this.links.delete(id)
    const links = linksIn(rows)
    for (const link of links) this.links.set(link.id, link)
    const touched = new Set(links.map(({ id }) => id))
    this.book.change(
      [...this.book.all()].filter((tag) => isFrom('point', tag) && touched.has(tag.source.linkId)),
      [],
    )
  }

  private async readAll() {
    const { revision, links, tags } = await this.db
      .transaction()
      .setIsolationLevel('repeatable read')
      .execute(async (db) => ({
        ...(await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()),
        links: await db.selectFrom('link').selectAll().execute(),
        tags: await db.selectFrom('tag').selectAll().execute(),
      }))
    this.links = new Map(linksIn(links).map((link) => [link.id, link]))
    this.book = new NoteBook<Tag>((tag) => this.spotOf(tag))
    this.book.change(tagsIn(tags), [])
    this.revision = revision
  }
}

const tagsIn = (rows: readonly unknown[]) => readable(rows, (row) => thingOf('tag', row))
const linksIn = (rows: readonly unknown[]): Link[] => readable(rows, (row) => thingOf('link', row))

const byTag = (findings: readonly Finding[]): Map<number, Note[]> => {
  const found = new Map<number, Note[]>()
  for (const { id, kind, text } of findings) {
    const notes = found.get(id) ?? []
    found.set(id, notes)
    notes.push({ kind, text, key: kind })
  }
  return found
}

const told = ({ kind, text, key }: Note, { accepted }: Pick<Tag, 'accepted'>): TagNote => ({
  kind,
  text,
  todo: noteKinds[kind].todo,
  key,
  accepted: accepted.find(({ note }) => note === key)?.reason ?? null,
})
