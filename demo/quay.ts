import { linkContract, type LinkDraft } from '#shared/links/link'
import type { Seal } from '#security/seal'
import { pointTag, type TagDraft } from '#shared/tags'
import { callBook } from './callBook'

/** The quay's broker, the vessel call book and the folder of the demo's files, as links. */
export const quayLink = (port: number): LinkDraft =>
  linkContract.parse({
    name: 'Quay',
    kind: 'mqtt',
    settings: { host: '127.0.0.1', port, version: '3.1.1', clientId: 'conduit-harrow-sound', reading: { age: 30_000 } },
  })

export const callBookLink = (port: number, seal: Seal): LinkDraft => {
  const { database, user, password } = callBook
  return linkContract.parse({
    name: 'Vessel call book',
    kind: 'sql',
    settings: { dialect: 'postgresql', host: '127.0.0.1', port, database, user, password: { sealed: seal.close(password) } },
  })
}

/** What the harbour office puts into the folder of files, for each season and hour. */
export const tariffFile = (): string => {
  const price = (season: number, hour: number) => (season + (hour >= 7 && hour < 21 ? 0.06 : 0)).toFixed(4).replace('.', ',')
  const rows = [
    { season: 'W', base: 0.1842 },
    { season: 'S', base: 0.1215 },
  ].flatMap(({ season, base }) => Array.from({ length: 24 }, (_, hour) => `${season};${hour};${price(base, hour)}`))
  return ['season;hour;per_kwh', ...rows, ''].join('\r\n')
}

export const filesLink = (): LinkDraft => linkContract.parse({ name: 'CSV files', kind: 'files', settings: {} })

export const quayTags = (linkId: number): TagDraft[] => [
  ...['north', 'south', 'car_deck'].map((gate) =>
    pointTag({
      ...{ path: `quay/${gate}/aboard`, linkId, address: `quay/${gate}/count`, type: 'int32' },
      options: { path: '$.people.aboard', time: '$.at' },
      description: 'People who went on board today',
    }),
  ),
  ...[1, 2].map((lamp) =>
    pointTag({
      ...{ path: `quay/lamp_${lamp}/light`, linkId, address: `quay/lamp/${lamp}`, type: 'float32', unit: 'lx' },
      options: { path: '$.lux', time: '$.ts' },
    }),
  ),
]
