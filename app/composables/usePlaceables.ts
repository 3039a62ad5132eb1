import type { Placeable } from '#core/modbus/map/propose'
import { passedOnBy } from '#core/tags/scaling'
import { mostOfPage } from '#shared/api/lists'
import { listTags } from '#shared/api/tags'
import type { Tag } from '#shared/tags'

/** A tag of the site, as maps take it. */
export interface KnownTag extends Placeable {
  id: number
}

/** All tags of the site, a page at a time, with how far that is. */
export const usePlaceables = () => {
  const read = ref<{ got: number; total: number } | null>(null)
  const fetchAll = async (): Promise<KnownTag[]> => {
    const found: KnownTag[] = []
    read.value = { got: 0, total: 0 }
    try {
      for (let offset = 0, total = 1; offset < total; offset += mostOfPage) {
        const page = await callApi(listTags, { query: { offset, limit: mostOfPage } })
        total = page.total
        found.push(...page.items.map(knownTagOf))
        read.value = { got: found.length, total }
      }
      return found
    } finally {
      read.value = null
    }
  }
  return { read, fetchAll }
}

const knownTagOf = (tag: Tag): KnownTag => ({ id: tag.id, path: tag.path, type: passedOnBy(tag), writable: tag.access === 'readwrite' })
