import type { Generated, JSONColumnType } from 'kysely'
import { tagDraft, type TagDraft } from '#shared/tags'
import { subject, withVisible } from './definition'

export interface TagTable {
  id: Generated<number>
  path: string
  link_id: number
  address: string
  type: TagDraft['type']
  options: JSONColumnType<TagDraft['options']>
  access: TagDraft['access']
  interval: number | null
  scaling: JSONColumnType<{ gain: number; offset: number }> | null
  unit: string
  range: JSONColumnType<{ low: number; high: number }> | null
  description: string
  revision: number
}

export const tag = subject<TagTable>()({
  contract: tagDraft,
  nameOf: ({ path }) => path,
  json: ['options', 'scaling', 'range'],
  needs: ['link'],
  toColumns: ({ linkId, ...rest }) => ({ ...rest, ...(linkId === undefined ? {} : { link_id: linkId }) }),
  /** In the table the link's id has the table's way of writing; a range came with migration 005. */
  broughtUp: ({ link_id, ...rest }) => ({
    range: null,
    ...withVisible(rest, 'path'),
    ...(link_id === undefined ? {} : { linkId: link_id }),
  }),
})
