import { z } from 'zod'
import { momentField } from '#core/contracts/fields'

const ms = z.number().nullable()

const measured = z
  .object({
    since: momentField,
    requests: z.int(),
    answers: z.int().describe('Those that were answered, whatever the answer said.'),
    failures: z.int(),
    causes: z.record(z.string(), z.int()).describe('Failures by their code.'),
    least: ms.describe('Answer times, ms; null: there was no answer.'),
    mean: ms,
    p50: ms.describe('Half of the answers took no longer; no further off than 4.5 %, as the next two.'),
    p95: ms,
    p99: ms,
    most: ms,
    busy: z.number().describe('The share of the time in which it was answering, 0 to 1.'),
  })
  .meta({ id: 'Measured' })

export const linkStatistics = z
  .object({
    id: z.int(),
    name: z.string(),
    kind: z.string(),
    whole: measured,
    parts: z.array(z.object({ name: z.string(), measured })).describe('By unit or device, where the far side has them.'),
    bytesIn: z.number(),
    bytesOut: z.number(),
    connections: z.int().describe('Connections that were made since the engine began.'),
  })
  .meta({ id: 'LinkStatistics', description: 'What was asked of a link, and how it was answered.' })
export type LinkStatistics = z.output<typeof linkStatistics>
