import { fault } from '#core/faults/catalogue'
import { grouped } from '#core/lists/grouped'
import { parted } from '#core/lists/parted'
import { quality } from '#core/tags/quality'
import type { ThingOf } from '#db/subjects'
import type { Applier } from '../configuration/site'
import type { ForceBook } from '../configuration/force'
import { nextTurn } from '#pacing/turns'
import { sourceKey, type SourceKey, type Sources } from '../sources/sources'
import type { TagTable } from '../table/tagTable'
import { hasOtherSource, type RegisteredTag, type TagRegister } from './tagRegister'

interface Parts {
  table: TagTable
  tags: TagRegister
  sources: Sources
  force: ForceBook
  /** Tells consumers of tags that are new or changed, of those that go, and of all paths that mean something else now. */
  tell(set: readonly RegisteredTag[], removed: readonly RegisteredTag[], paths: ReadonlySet<string>): void
}

/** So many tags are brought into force in one go; then others get their turn. */
const tagsAtOnce = 200

/** Brings tags into force: each gets its place in the tag table, and is handed over to its source and to consumers. */
export class TagKeeper implements Applier<ThingOf['tag']> {
  constructor(private parts: Parts) {}

  set(all: readonly ThingOf['tag'][]) {
    return bitByBit(all, (tags) => this.setSome(tags))
  }

  removed(all: readonly number[]) {
    return bitByBit(all, (ids) => this.removeSome(ids))
  }

  /** Tags that were there before their source have it from now on. */
  settle(key: SourceKey) {
    const waiting = this.of(key)
    if (waiting.length > 0) this.handOver(waiting, [])
  }

  /** Their source is gone; where a tag is going to be another's, it comes again. */
  orphan(key: SourceKey) {
    for (const tag of this.of(key)) this.withoutSource(tag)
    this.parts.table.flush()
  }

  private of(key: SourceKey): RegisteredTag[] {
    return [...this.parts.tags.all()].filter(({ source }) => sourceKey(source) === key)
  }

  private removeSome(ids: readonly number[]) {
    const { tags, tell } = this.parts
    const gone = ids.map((id) => tags.remove(id)).filter((tag) => tag !== undefined)
    this.handOver([], gone)
    tell([], gone, new Set(gone.map(({ path }) => path)))
    for (const tag of gone) tags.release(tag)
  }

  private setSome(all: readonly ThingOf['tag'][]) {
    const { table, tags, tell } = this.parts
    const now = Date.now()
    const moved: RegisteredTag[] = []
    const paths = new Set(all.map(({ path }) => path))
    const registered = all.map((tag) => {
      const before = tags.byTagId(tag.id)
      if (before) paths.add(before.path)
      if (before && sourceKey(before.source) !== sourceKey(tag.source)) moved.push(before)
      const after = tags.set(tag)
      if (before && hasOtherSource(before, after)) table.renew(after.handle, now)
      return after
    })
    this.handOver([], moved)
    this.handOver(registered, [])
    tell(registered, [], paths)
    table.flush()
  }

  private handOver(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    const { sources, force } = this.parts
    const keyOf = ({ source }: RegisteredTag) => sourceKey(source)
    for (const [, left] of grouped(removed, keyOf))
      sources.of(left[0]!.source)?.take(
        [],
        left.map(({ handle }) => handle),
      )
    for (const [, mine] of grouped(set, keyOf)) {
      const source = sources.of(mine[0]!.source)
      if (!source) {
        mine.forEach((tag) => this.withoutSource(tag))
        continue
      }
      const problems = source.take(mine, [])
      for (const tag of mine) {
        const problem = problems.get(tag.handle)
        if (problem === undefined) force.settle('tag', tag.id)
        else force.fail('tag', tag, problem, null)
      }
    }
  }

  private withoutSource(tag: RegisteredTag) {
    const { table, force } = this.parts
    table.degrade(tag.handle, quality.BadConfigurationError, Date.now())
    force.fail('tag', tag, fault('force.no-link', { name: tag.path, source: sourceText(sourceKey(tag.source)) }), null)
  }
}

const sourceText = (key: SourceKey) => (typeof key === 'number' ? `link ${key}` : key)

const bitByBit = async <T>(all: readonly T[], work: (some: readonly T[]) => void) => {
  for (const some of parted(all, tagsAtOnce)) {
    work(some)
    await nextTurn()
  }
}
