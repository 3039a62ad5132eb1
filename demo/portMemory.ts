import { tagDraft, type TagDraft } from '#shared/tags'

/** What the port office sets by hand, and no device holds. */
export const memoryTags = (): TagDraft[] =>
  [
    { path: 'port/duty/officer', type: 'string', start: 'nobody yet', description: 'Who is on duty at the harbour office' },
    { path: 'port/tariff/night', type: 'float64', start: 0.19, unit: 'EUR/kWh', description: 'What a ship pays from 22:00 to 06:00' },
    { path: 'port/berths_open', type: 'uint8', start: 3, description: 'Berths that take ships today' },
  ].map(({ start, ...tag }) => tagDraft.parse({ ...tag, access: 'readwrite', source: { kind: 'memory', start } }))
