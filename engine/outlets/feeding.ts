import { sourceKey } from '../sources/sources'
import type { RegisteredTag } from '../tags/tagRegister'

interface Shows {
  shows(path: string): boolean
}

/** Where an outlet gets its tags from: by the ids of links, and by the kinds of other sources. */
export interface Feeds {
  links: number[]
  others: string[]
}

/** Which sources have tags that an outlet shows. Looked up when it is asked for, and again only after a change. */
export class Feeding {
  private found = new Map<Shows, Feeds>()

  constructor(private tags: () => Iterable<Pick<RegisteredTag, 'path' | 'source'>>) {}

  /** Tags or outlets are others now. */
  forget() {
    this.found.clear()
  }

  of(outlet: Shows): Feeds {
    const known = this.found.get(outlet)
    if (known) return known
    const keys = new Set<number | string>()
    for (const { path, source } of this.tags()) {
      const key = sourceKey(source)
      if (!keys.has(key) && outlet.shows(path)) keys.add(key)
    }
    const feeds = { links: [...keys].filter((key) => typeof key === 'number'), others: [...keys].filter((key) => typeof key === 'string') }
    this.found.set(outlet, feeds)
    return feeds
  }
}
