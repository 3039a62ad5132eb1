import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { savedTag } from '../tags'
import { mostWatched, mostWatchLists, tagTrend, watchedTags, watchList, watchListDraft } from '../watch'
import { listQuery, pageOf } from './lists'
import { operation } from './operation'

const group = 'Watch lists'
const own = ['access.people-only'] as const
const example = { name: 'Berth 2', shared: true, tags: [12, 13] }

export const listWatchLists = operation('GET /watch-lists', {
  group,
  needs: 'look',
  does: 'Your watch lists, and those that others share.',
  query: listQuery(['name', 'owner', 'id'], 500),
  answer: pageOf(watchList),
  faults: [...own],
})

export const showWatchList = operation('GET /watch-lists/{id}', {
  group,
  needs: 'look',
  does: 'A watch list with its tags, in their order. Tags that are gone are left out.',
  answer: watchList.extend({ watched: z.array(savedTag).describe('The tags themselves.') }),
  faults: [...own, 'watch.not-there'],
})

export const makeWatchList = operation('POST /watch-lists', {
  group,
  needs: 'look',
  does: `Makes a watch list; each person may have ${mostWatchLists}.`,
  body: watchListDraft,
  example,
  answer: watchList,
  faults: [...own, 'entry.taken', 'watch.full'],
})

export const changeWatchList = operation('PUT /watch-lists/{id}', {
  group,
  needs: 'look',
  does: 'Calls one of your watch lists otherwise, shares it or not, or puts its tags in another order.',
  body: watchListDraft,
  example,
  answer: watchList,
  faults: [...own, 'watch.not-there', 'entry.taken'],
})

export const removeWatchList = operation('DELETE /watch-lists/{id}', {
  group,
  needs: 'look',
  does: 'Removes one of your watch lists. Its tags stay what they are.',
  answer: z.object({ removed: z.int() }),
  faults: [...own, 'watch.not-there'],
})

export const changeWatched = operation('POST /watch-lists/{id}/tags', {
  group,
  needs: 'look',
  does: 'Adds tags at the end of one of your watch lists, and takes others out of it.',
  body: watchedTags,
  example: { add: [12], remove: [] },
  answer: watchList,
  faults: [...own, 'watch.not-there', 'watch.full'],
})

export const tagTrends = operation('POST /tags/trends', {
  group: 'Tags',
  needs: 'look',
  does: 'How tags went in the last five minutes, second by second. They are followed from the first time that somebody asks until nobody has asked for ten minutes.',
  body: z.object({
    ids: z.array(idField('A tag')).min(1).max(mostWatched),
    after: z.int().min(0).default(0).describe('Only seconds from this one on; Unix seconds.'),
  }),
  example: { ids: [12] },
  answer: z.array(tagTrend),
  engine: true,
})
