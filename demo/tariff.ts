import { httpSettings } from '#core/http/settings'
import type { Seal } from '#security/seal'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag, type TagDraft } from '#shared/tags'

/** The key that the office was given. */
const key = 'harrow-sound'

export const tariffBase = (port: number) => `http://127.0.0.1:${port}/v1`

/** Prices and the grid, from a web API of others. */
export const tariffLink = (port: number, seal: Seal): LinkDraft =>
  linkContract.parse({
    name: 'Tariff service',
    kind: 'http',
    settings: httpSettings.parse({
      base: tariffBase(port),
      signIn: { kind: 'key', name: 'X-API-Key', key: { sealed: seal.close(key) } },
      interval: 15_000,
      operations: [
        { name: 'tariff', path: '/tariffs/{zone}' },
        { name: 'grid', path: '/grid' },
        {
          ...{ name: 'add_call', method: 'POST', path: '/calls' },
          body: '{"berth": "{berth}", "voyage": "{voyage}", "kwh": "{kwh}", "price": "{price}"}',
        },
      ],
    }),
  })

export const tariffTags = (linkId: number): TagDraft[] => [
  pointTag({
    ...{ path: 'office/tariff/price_now', linkId, address: 'tariff?zone=north', type: 'float64', unit: 'EUR/MWh' },
    ...{ options: { path: '$.now.price' }, description: 'What this quarter of an hour costs, in the north' },
  }),
  pointTag({
    ...{ path: 'office/tariff/quarter', linkId, address: 'tariff?zone=north', type: 'datetime' },
    ...{ options: { path: '$.now.from' }, description: 'When this quarter of an hour began' },
  }),
  pointTag({
    ...{ path: 'office/grid/frequency', linkId, address: 'grid', type: 'float64', unit: 'Hz', interval: 5000 },
    ...{ options: { path: '$.frequency_hz', time: '$.at' }, description: 'As the grid operator tells it' },
  }),
  pointTag({
    ...{ path: 'office/grid/load', linkId, address: 'grid', type: 'float64', unit: 'MW', interval: 5000 },
    ...{ options: { path: '$.load_mw', time: '$.at' }, description: 'Load of the region' },
  }),
]
