import { framingText } from '#core/modbus/framings'
import { parseAddress, type Table } from '#core/modbus/address'
import { placeOf } from '#core/modbus/map/entry'
import { counted } from '#core/text/counted'
import type { CardSection, Known } from './card'
import { isOpenToOthers } from './doors'
import { folderRulesText } from './httpServerCard'
import type { ModbusDoor, ModbusServerSettings } from './modbusServer'

export const modbusServerCard = ({ settings, addresses }: Known<ModbusServerSettings>): CardSection[] => [
  ...settings.doors.map((door, i) => doorSection(door, addresses[i] ?? `${door.interface}:${door.port}`, i, settings.unit)),
  {
    title: 'Who may do what',
    rows: [
      { label: 'Everybody else', text: folderRulesText(settings.anyone) },
      ...settings.machines.map(({ name, from, rules }) => ({ label: name, text: `${from}: ${folderRulesText(rules)}` })),
    ],
    steps: [],
  },
  {
    title: 'What is there',
    rows: [
      ...tableRows(settings),
      { label: 'Between', text: settings.gaps === 'zero' ? 'zeros' : 'exception 2' },
      { label: 'Not good', text: notGoodText[settings.notGood] },
    ],
    steps: [
      'The list of all addresses is to be had as CSV from the map of the outlet, with the addresses in both notations.',
      'In an address such as holding/40 the number is the one that travels. Where a program counts from 1, take the column reference.',
    ],
  },
]

export const notGoodText: Record<ModbusServerSettings['notGood'], string> = {
  marker: 'a number that means none: of fractions the one that is no number, 0x8000 of signed integers, all bits of others; a bool is off',
  refuse: 'exception 4 for the whole request',
  last: 'what was good last',
}

const doorSection = (door: ModbusDoor, address: string, i: number, unit: number): CardSection => ({
  title: `Address ${i + 1}${door.on ? '' : ', closed now'}`,
  rows: [
    { label: 'Address', text: address },
    { label: 'Protocol', text: door.framing === 'tcp' ? framingText.tcp : `Modbus ${framingText[door.framing]} over TCP` },
    { label: 'Unit', text: String(unit) },
    { label: 'Reached from', text: isOpenToOthers(door) ? `the network of ${door.interface}` : 'the same machine only' },
    { label: 'Security', text: 'not encrypted, and without names: addresses are all that is looked at' },
    ...(isOpenToOthers(door) ? [{ label: 'Firewall', text: `TCP ${door.port}, in, at the Keen Conduit machine` }] : []),
  ],
  steps: [],
})

const tableTitle: Record<Table, string> = {
  coil: 'Coils',
  discrete: 'Discrete inputs',
  input: 'Input registers',
  holding: 'Holding registers',
}

/** What each table holds, as in “0 to 119, 60 tags”. */
export const tableRows = ({ map, unit }: Pick<ModbusServerSettings, 'map' | 'unit'>): { label: string; text: string }[] => {
  const spans = new Map<Table, { low: number; high: number; entries: number }>()
  for (const entry of map) {
    const place = parseAddress(entry.at).ok ? placeOf(entry, unit) : null
    if (!place) continue
    const { low, high, entries } = spans.get(place.table) ?? { low: Infinity, high: -1, entries: 0 }
    const end = place.offset + place.count - 1
    spans.set(place.table, { low: Math.min(low, place.offset), high: Math.max(high, end), entries: entries + 1 })
  }
  return (Object.keys(tableTitle) as Table[]).flatMap((table) => {
    const span = spans.get(table)
    return span ? [{ label: tableTitle[table], text: `${span.low} to ${span.high}, ${counted(span.entries, 'entry', 'entries')}` }] : []
  })
}
