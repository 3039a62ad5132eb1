import { z } from 'zod'
import { idField, numberText } from '#core/contracts/fields'
import { allStatistics, courseMinute, measuredKinds } from '../statistics'
import { operation } from './operation'

const group = 'What goes on'

export const listStatistics = operation('GET /statistics', {
  group,
  needs: 'look',
  does: 'What was asked of each link, outlet and bridge and their parts since the last reset: requests, failures by cause, bytes, and how long answers took.',
  answer: allStatistics,
  engine: true,
})

export const statisticsCourse = operation('GET /statistics/course', {
  group,
  needs: 'look',
  does: 'How requests, failures and answer times of one link, outlet or bridge went over the last day, minute by minute.',
  query: { of: z.enum(measuredKinds), id: numberText(1) },
  answer: z.object({ minutes: z.array(courseMinute).describe('The oldest first; the minute under way is the last.') }),
  engine: true,
  faults: ['entry.gone'],
})

export const resetStatistics = operation('POST /statistics/reset', {
  group,
  needs: 'operate',
  does: 'Counts anew from now on. Bytes and connections go on: they are of the engine’s life.',
  body: z.object({
    only: z
      .object({ of: z.enum(measuredKinds), id: idField('What is counted anew') })
      .nullable()
      .default(null)
      .describe('Null: everything.'),
  }),
  example: { only: null },
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
