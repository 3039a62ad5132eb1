import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { itemParts, type ItemPart } from '#core/records/items'
import { dataTypes, scalarTypes } from '#core/tags/types'
import { placeDetails } from './browse'

/** What a node found out of tags that are to be made, changed and removed for good: its site does that. */

const access = z.enum(['read', 'readwrite'])
const text = z.string().max(2000)
const remove = z.array(idField('A tag')).max(200_000)

export const followPlanContract = z.object({
  make: z
    .array(
      z.object({
        part: z.enum([...itemParts] as [ItemPart, ...ItemPart[]]),
        ...{ column: text, row: text, path: text, type: z.enum(scalarTypes), access, description: text, note: text },
      }),
    )
    .max(200_000),
  change: z.array(z.object({ id: idField('A tag'), type: z.enum(scalarTypes), access })).max(200_000),
  remove,
})

export const takingPlanContract = z.object({
  make: z
    .array(z.object({ address: text, member: text, type: z.enum(dataTypes), access, names: z.array(text).max(100), details: placeDetails }))
    .max(200_000),
  change: z.array(z.object({ id: idField('A tag'), type: z.enum(dataTypes), access })).max(200_000),
  remove,
})
