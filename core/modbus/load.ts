import { grouped } from '../lists/grouped'
import { busiest, type Experience, type PartExperience, type LinkLoad, type LoadPoint, type PartLoad, type RoundLoad } from '../links/load'
import { tables, type Table } from './address'
import { CostlyTags, wantedOf } from '../links/costly'
import { planReads, type Block, type PlanItem } from '../links/planner'
import { pointOf } from './point'
import { planLimits, roundMs } from './rounds'
import type { ModbusTcpSettings } from './settings'

interface Placed extends PlanItem {
  point: LoadPoint
  unit: number
  table: Table
  interval: number
}

/** What reading these points asks of a device: the plan of requests per unit and interval, and what it takes. */
export const modbusLoad = (points: readonly LoadPoint[], settings: ModbusTcpSettings, experience: Experience): LinkLoad => {
  const placed = points.flatMap((point): Placed[] => {
    const at = pointOf(point, settings)
    return at ? [{ ...at, point, interval: point.interval ?? settings.interval }] : []
  })
  const costly = new CostlyTags()
  const parts = [...grouped(placed, ({ unit }) => unit)]
    .sort(([a], [b]) => a - b)
    .map(([unit, ofUnit]) => partOf(unit, ofUnit, settings, experience(String(unit)) ?? unseen, costly))
  return {
    parts,
    busy: busiest(
      parts.map(({ busy }) => busy),
      settings.requests.connections,
    ),
    costly: costly.list(),
  }
}

const unseen: PartExperience = { answerMs: null, fences: {} }

const partOf = (
  unit: number,
  ofUnit: Placed[],
  settings: ModbusTcpSettings,
  { answerMs, fences }: PartExperience,
  costly: CostlyTags,
): PartLoad => {
  const rounds = [...grouped(ofUnit, ({ interval }) => interval)]
    .sort(([a], [b]) => a - b)
    .map(([interval, points]): RoundLoad => {
      const blocks = blocksOf(unit, points, settings, fences)
      if (answerMs !== null) for (const { items } of blocks) costly.note(items, interval, roundMs(1, answerMs, settings.requests))
      return {
        interval,
        tags: points.length,
        requests: blocks.length,
        carried: sum(blocks.map(({ count }) => count)),
        wanted: wantedOf(blocks),
        ms: answerMs === null ? null : roundMs(blocks.length, answerMs, settings.requests),
      }
    })
  const all = rounds.length === 1 ? rounds[0]!.requests : blocksOf(unit, ofUnit, settings, fences).length
  return {
    unit: String(unit),
    rounds,
    busy: answerMs === null ? null : sum(rounds.map(({ ms, interval }) => ms! / interval)),
    fastest: answerMs === null ? null : roundMs(all, answerMs, settings.requests),
  }
}

const blocksOf = (
  unit: number,
  points: readonly Placed[],
  settings: ModbusTcpSettings,
  fences: PartExperience['fences'],
): Block<Placed>[] =>
  tables.flatMap((table) => {
    const ofTable = points.filter((point) => point.table === table)
    return ofTable.length === 0 ? [] : planReads(ofTable, planLimits(table, unit, settings, fences[table] ?? [])).blocks
  })

const sum = (numbers: readonly number[]) => numbers.reduce((total, one) => total + one, 0)
