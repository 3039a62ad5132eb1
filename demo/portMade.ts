import { tagDraft, type TagDraft } from '#shared/tags'

const berths = { a: 'berth/1/shore/active_power', b: 'berth/2/shore/active_power', c: 'berth/3/shore/active_power' }

/** What the port works out for itself: shore power of all berths against what the grid gives, and wind until the mast is connected. */
export const madeTags = (): TagDraft[] =>
  [
    {
      path: 'port/grid/connection',
      type: 'float64',
      unit: 'kW',
      source: { kind: 'constant', value: 6000 },
      description: 'What the contract with the grid allows',
    },
    {
      path: 'port/grid/shore_power',
      type: 'float64',
      unit: 'kW',
      source: { kind: 'formula', formula: 'a + b + c', inputs: berths },
      range: { low: 0, high: 6000 },
      reports: { deadband: { kind: 'percent', value: 0.5 }, most: 60_000 },
      description: 'All berths together',
    },
    {
      path: 'port/grid/used',
      type: 'float64',
      unit: '%',
      source: {
        kind: 'formula',
        formula: 'round(100 * power / limit, 1)',
        inputs: { power: 'port/grid/shore_power', limit: 'port/grid/connection' },
      },
      description: 'Share of the connection that ships take',
    },
    {
      path: 'port/weather/wind',
      type: 'float64',
      unit: 'm/s',
      source: { kind: 'signal', shape: 'walk', low: 0, high: 18, step: 0.4, every: 2000, seed: 11 },
      description: 'Made here until the mast on the breakwater is connected',
    },
  ].map((tag) => tagDraft.parse(tag))
