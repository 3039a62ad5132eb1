import { z } from 'zod'
import { idField } from '#core/contracts/fields'
import { linkStatistics } from '../statistics'
import { operation } from './operation'

const group = 'What goes on'

export const listStatistics = operation('GET /statistics', {
  group,
  needs: 'look',
  does: 'What was asked of each link and its parts since the last reset: requests, failures by cause, bytes, and how long answers took.',
  answer: z.object({ links: z.array(linkStatistics) }),
  engine: true,
})

export const resetStatistics = operation('POST /statistics/reset', {
  group,
  needs: 'operate',
  does: 'Counts anew from now on. Bytes and connections go on: they are of the engine’s life.',
  body: z.object({ linkId: idField('A link').nullable().default(null).describe('Null: all links.') }),
  example: { linkId: null },
  answer: z.object({ since: z.iso.datetime() }),
  engine: true,
  faults: ['entry.gone'],
})

export const metrics = operation('GET /metrics', {
  group,
  needs: 'look',
  does: 'The statistics in the text form of OpenMetrics 1.0, for programs that watch others. They sign in by a token.',
  answer: z.string(),
  as: 'text',
  engine: true,
})
