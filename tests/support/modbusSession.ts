import type { Entry } from '#core/journal/entry'
import type { Fault } from '#core/faults/catalogue'
import type { ModbusSettings, ModbusTcpSettings } from '#core/modbus/settings'
import type { TagValue } from '#core/tags/types'
import type { JournalWriter, WriteRecord } from '#engine/journal/journal'
import { ModbusSession } from '#engine/links/modbus/session'
import { TagTable } from '#engine/table/tagTable'
import { modbusTcpSettings } from '#core/modbus/settings'
import { pointsIn, type Wanted } from './points'
import { noArrivals } from './arrivals'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'

type Partials = {
  [K in keyof ModbusTcpSettings]?: ModbusTcpSettings[K] extends unknown[] ? ModbusTcpSettings[K] : Partial<ModbusTcpSettings[K]>
}

export const settingsFor = (port: number, more: Partials = {}): ModbusTcpSettings =>
  modbusTcpSettings.parse({ host: '127.0.0.1', port, interval: 50, patience: { retryFirst: 100, retryMost: 400, answer: 300 }, ...more })

/** A journal that only remembers. */
export const memoryJournal = () => {
  const entries: { source: string; text: string; fault: Fault | null }[] = []
  const add = (source: string, text: string, fault: Fault | null = null) => void entries.push({ source, text, fault })
  const writes: WriteRecord[] = []
  const writing: JournalWriter['writing'] = (begun) => (why) => void writes.push({ ...begun, key: '', at: new Date(), fault: why, ms: 0 })
  const take = ({ source, text, fault }: Entry) => add(source, text, fault)
  const takeWrites = (records: readonly unknown[]) => Promise.resolve(void writes.push(...(records as WriteRecord[])))
  return { entries, writes, note: add, caution: add, trouble: add, writing, take, takeWrites }
}

/** A link session with a tag table of its own, and values by address. */
export const openSession = (settings: ModbusSettings, wanted: Wanted[]) => {
  const table = new TagTable()
  const journal = memoryJournal()
  const context = {
    meters: new Meters(),
    arrivals: noArrivals(),
    roots: () => [],
    wire: new Wire(),
    name: 'Link under test',
    settings,
    table,
    journal,
  }
  const session = new ModbusSession(context, (same: ModbusSettings) => same)
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  const handleOf = (address: string) => points.find((point) => point.address === address)!.handle
  return {
    table,
    journal,
    session,
    points,
    value: (address: string): TagValue | undefined => table.values[handleOf(address)],
    quality: (address: string): number => table.quality[handleOf(address)]!,
    write: (address: string, value: TagValue) => session.write(handleOf(address), value),
    handleOf,
  }
}
