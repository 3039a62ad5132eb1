import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'

export const meterLineWay = (port: number) => ({ over: 'tcp' as const, host: '127.0.0.1', port })

/** The same meters by their own line, behind a converter that passes its bytes on. */
export const meterLine = (port: number): LinkDraft =>
  linkContract.parse({
    name: 'Meters by their line',
    kind: 'modbus-line',
    settings: { line: meterLineWay(port), unit: 11, order: 'CDAB', interval: 2000 },
  })

const channels = [
  { name: 'active_power', offset: 40, unit: 'kW' },
  { name: 'frequency', offset: 64, unit: 'Hz' },
]

export const meterLineTags = (linkId: number): TagDraft[] =>
  [1, 2].flatMap((berth) =>
    channels.map(({ name, offset, unit }) =>
      pointTag({
        ...{ path: `berth/${berth}/by_line/${name}`, linkId, address: `${10 + berth}:holding/${offset}`, type: 'float32', unit },
      }),
    ),
  )
