import { z } from 'zod'
import { benchBlock, blockLayout, benchEntry, benchIds, benchPoint, benchReading, mostKept, mostOnBench, newBenchEntries } from '../bench'
import { valueOrigin, wireValue } from '../values'
import { writeValue } from './tags'
import { listQuery, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Bench'
const own = ['access.people-only'] as const
const faults = [...own, 'bench.not-there'] as const
const example = { linkId: 1, address: '11:holding/40', type: 'float32' } as const

export const listBench = operation('GET /bench', {
  group,
  needs: 'configure',
  does: 'The points that you tried without making tags, the newest first.',
  query: listQuery(['-id', 'address'], mostOnBench),
  answer: pageOf(benchEntry),
  faults: [...own],
})

export const addToBench = operation('POST /bench', {
  group,
  needs: 'configure',
  does: 'Puts points on your bench.',
  body: newBenchEntries,
  example: { points: [example] },
  answer: z.array(benchEntry),
  faults: [...own, 'bench.full'],
})

export const changeOnBench = operation('PUT /bench/{id}', {
  group,
  needs: 'configure',
  does: 'Reads a point on your bench otherwise: another address, type or option.',
  body: benchPoint,
  example,
  answer: benchEntry,
  faults: [...faults],
})

export const removeFromBench = operation('POST /bench/remove', {
  group,
  needs: 'configure',
  does: 'Takes points off your bench.',
  body: benchIds,
  example: { ids: [3] },
  answer: removed.pick({ removed: true }),
  faults: [...own],
})

export const readOnBench = operation('POST /bench/{id}/read', {
  group,
  needs: 'configure',
  does: 'Reads a point on your bench once.',
  answer: z.object({ entry: benchEntry, origin: valueOrigin }),
  engine: true,
  farSide: true,
  faults: [...faults],
})

export const writeOnBench = operation('PUT /bench/{id}/value', {
  group,
  needs: 'configure',
  does: 'Writes to a point on your bench and answers with what was read back. The journal says who did.',
  body: writeValue.body,
  example: { value: 350 },
  answer: z.object({ entry: benchEntry, readBack: wireValue }),
  engine: true,
  farSide: true,
  faults: [...faults],
})

export const benchNow = operation('POST /bench/now', {
  group,
  needs: 'configure',
  does: `What points on your bench have now. Each is read over and over until nobody has asked for ten seconds; at most ${mostKept} at once.`,
  body: benchIds.extend({
    ids: benchIds.shape.ids.max(mostKept, `At most ${mostKept} are read over and over at once.`),
    open: z.int().nullable().default(null).describe('The one of which every reading of its words is wanted.'),
  }),
  example: { ids: [3] },
  answer: z.array(benchReading),
  engine: true,
  faults: [...own],
})

export const layBlockOut = operation('POST /bench/block', {
  group,
  needs: 'configure',
  does: 'What probably lies in registers of which nobody knows. They are read over and over until nobody has asked for ten seconds; ten seconds of changes make it fairly sure.',
  body: benchBlock,
  example: { linkId: 1, address: '11:holding/40', count: 24 },
  answer: blockLayout,
  engine: true,
  farSide: true,
  faults: ['entry.gone', 'worker.away'],
})
