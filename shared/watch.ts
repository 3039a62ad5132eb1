import { z } from 'zod'
import { idField, momentField, nameField } from '#core/contracts/fields'

export const mostWatchLists = 50
export const mostWatched = 500

const tagIds = z.array(idField('A tag')).max(mostWatched, `At most ${mostWatched} tags in a list.`)

export const watchListDraft = z.object({
  name: nameField('watch list'),
  shared: z.boolean().default(false).describe('Whether everybody may look at it.'),
  tags: tagIds.default([]).describe('The ids of its tags, in their order.'),
})

export const watchList = watchListDraft
  .extend({ id: z.int(), owner: z.string().describe('Whose it is.'), mine: z.boolean(), madeAt: z.iso.datetime() })
  .meta({ id: 'WatchList', description: 'Tags that somebody watches.' })
export type WatchList = z.output<typeof watchList>

export const watchedTags = z.object({ add: tagIds.default([]), remove: tagIds.default([]) })

/** How a tag went in the last minutes; in it, `null` stands for a second without a good number. */
export const tagTrend = z
  .object({
    id: z.int(),
    since: momentField.describe('From when on it is followed.'),
    least: z.number().nullable(),
    most: z.number().nullable(),
    changesPerSecond: z.number().describe('Over the last ten seconds.'),
    from: z.int().describe('The second at which the lists below begin; Unix seconds.'),
    lows: z.array(z.number().nullable()),
    highs: z.array(z.number().nullable()),
  })
  .meta({ id: 'TagTrend', description: 'The least and the most value of each second of the last minutes.' })
export type TagTrend = z.output<typeof tagTrend>
