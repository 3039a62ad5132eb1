import { z } from 'zod'
import { momentField } from '#core/contracts/fields'

const ms = z.number().nullable()

export const measured = z
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

const meter = { id: z.int(), name: z.string(), whole: measured }

export const numberedCaller = z
  .object({
    id: z.int(),
    name: z.string().describe('By which it goes.'),
    from: z.string().describe('Its address; of a serial line the device.'),
    as: z.string().describe('As whom it came in.'),
  })
  .meta({ id: 'Caller' })

export const clientTotal = z
  .object({
    client: numberedCaller,
    calls: z.int(),
    told: z.int().describe('What it was told without asking: notifications, messages.'),
    measured: measured.describe('Its calls that were answered at a known time, and those that were refused.'),
    slowest: z.object({ ms: z.number(), service: z.string(), n: z.int(), at: momentField }).nullable(),
  })
  .meta({ id: 'ClientTotal', description: 'What one client asked since the last reset.' })

export const outletStatistics = z
  .object({
    ...meter,
    kind: z.string(),
    clients: z.array(clientTotal),
    bytesIn: z.number(),
    bytesOut: z.number(),
    connections: z.int().describe('Connections that came since the engine began.'),
  })
  .meta({ id: 'OutletStatistics', description: 'What an outlet was asked, and how it answered.' })
export type OutletStatistics = z.output<typeof outletStatistics>

export const bridgeStatistics = z
  .object({
    ...meter,
    parts: z.array(z.object({ name: z.string(), measured })).describe('By receiver.'),
  })
  .meta({ id: 'BridgeStatistics', description: 'Runs of a bridge: what its receivers took, and how long that took.' })
export type BridgeStatistics = z.output<typeof bridgeStatistics>

export const allStatistics = z.object({
  links: z.array(linkStatistics),
  outlets: z.array(outletStatistics),
  bridges: z.array(bridgeStatistics),
})
export type AllStatistics = z.output<typeof allStatistics>

export const measuredKinds = ['link', 'outlet', 'bridge'] as const
export type MeasuredKind = (typeof measuredKinds)[number]

export const courseMinute = z
  .object({
    at: momentField,
    requests: z.int(),
    failures: z.int(),
    p50: ms.describe('How long half of its answers took at the most, ms; null: there was none.'),
    p95: ms,
  })
  .meta({ id: 'StatisticsMinute' })
