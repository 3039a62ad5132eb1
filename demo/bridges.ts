import { bridgeContract, type BridgeDraft } from '#core/bridges/settings'

interface Links {
  quay: number
  callBook: number
  files: number
  broker: number
  server: number
  tariffs: number
}

/** The energy that the meter of a ship’s berth has counted. */
const meterOfBerth = 'call_berth == "berth/1" ? meter1 : meter2'

/** The demo's bridges; the last one really fails, with something to do about it. */
export const demoBridges = ({ quay, callBook, files, broker, server, tariffs }: Links): BridgeDraft[] =>
  [
    {
      name: 'Passengers to the call book',
      when: [{ kind: 'message', linkId: quay, filter: 'quay/+/count' }],
      take: [
        { name: 'aboard', kind: 'member', path: '$.people.aboard' },
        { name: 'ashore', kind: 'member', path: '$.people.ashore' },
      ],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'passengers' },
          fields: [
            { into: 'at', from: 'time' },
            { into: 'gate', from: 'part2' },
            { into: 'aboard', from: 'aboard' },
            { into: 'ashore', from: 'ashore' },
          ],
        },
      ],
    },
    {
      name: 'Meters to a file a day',
      when: [{ kind: 'change', tag: 'berth/*/shore/energy_import', by: 1 }],
      send: [
        {
          ...{ kind: 'file', number: 1, linkId: files, name: 'energy.csv', per: 'day' },
          fields: [
            { into: 'time', from: 'time' },
            { into: 'berth', from: 'part2' },
            { into: 'kwh', from: 'round(value, 3)' },
            { into: 'quality', from: 'quality' },
          ],
        },
      ],
    },
    {
      name: 'Berth 2 for the harbour office',
      when: [{ kind: 'change', tag: 'berth/2/shore/active_power', by: 2 }],
      take: [
        { name: 'volts', kind: 'tag', path: 'berth/2/shore/voltage', missing: { do: 'last' } },
        {
          ...{ name: 'ship', kind: 'query', linkId: callBook, missing: { do: 'last' } },
          statement: 'select ship, limit_kw from alongside where berth = {concat(part1, "/", part2)}',
        },
      ],
      send: [
        {
          ...{ kind: 'outlet', number: 1, outletId: broker, topic: 'harbour/berth/{part2}/power', qos: 1, retain: true },
          fields: [
            { into: 'power.kw', from: 'round(value, 1)' },
            { into: 'power.volts', from: 'volts' },
            { into: 'power.share', from: 'round(value / ship_limit_kw * 100, 1)' },
            { into: 'ship', from: 'ship_ship' },
            { into: 'at', from: 'time' },
          ],
          away: { keep: 'latest' },
        },
      ],
    },
    {
      name: 'Arm position on the meter',
      when: [{ kind: 'period', every: 100 }],
      take: [{ name: 'extension', kind: 'tag', path: 'berth/1/arm/plug/position/extension' }],
      send: [
        {
          ...{ kind: 'tags', number: 1, away: { keep: 'latest' } },
          fields: [{ into: 'berth/1/shore/arm_extension', from: 'extension * 100' }],
        },
      ],
    },
    {
      name: 'Tariffs from the office',
      when: [{ kind: 'file', linkId: files, files: 'tariffs/*.csv', by: 'whole', delimiter: ';', decimal: ',', first: 'all' }],
      take: [{ name: 'tariff', kind: 'member', path: '$', each: true }],
      lookUps: [
        {
          name: 'season',
          rows: [
            { is: 'W', becomes: 'winter' },
            { is: 'S', becomes: 'summer' },
          ],
        },
      ],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'tariff', how: 'upsert', key: ['season', 'hour'] },
          fields: [
            { into: 'season', from: 'season(tariff_season)' },
            { into: 'hour', from: 'tariff_hour' },
            { into: 'per_kwh', from: 'tariff_per_kwh' },
          ],
        },
      ],
    },
    {
      name: 'Peaks to the call book',
      when: [{ kind: 'limit', tag: 'berth/*/shore/active_power', limit: 600, back: 50 }],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'note_peak', how: 'call' },
          fields: [
            { into: 'at_berth', from: 'concat(part1, "/", part2)' },
            { into: 'kw', from: 'value' },
            { into: 'seen_at', from: 'time' },
          ],
        },
      ],
    },
    {
      name: 'Limit of the ship to its berth',
      when: [{ kind: 'change', tag: 'call_book/profile/change' }],
      take: [
        { name: 'berth', kind: 'tag', path: 'call_book/profile/berth' },
        { name: 'limit', kind: 'tag', path: 'call_book/profile/limit_kw' },
      ],
      send: [
        {
          ...{ kind: 'tags', number: 1, away: { keep: 'latest' } },
          fields: [{ into: '{berth}/shore/trip_limit', from: 'limit' }],
        },
      ],
    },
    {
      name: 'Billing rows with the tariff',
      when: [{ kind: 'schedule', cron: '*/15 * * * *', zone: 'UTC' }],
      take: [
        {
          ...{ name: 'call', kind: 'query', linkId: callBook, each: true },
          statement: "select number as voyage, ship, berth from voyage where berth in ('berth/1', 'berth/2')",
        },
        {
          name: 'price',
          kind: 'call',
          linkId: tariffs,
          operation: 'tariff',
          given: [{ into: 'zone', from: '"north"' }],
          path: '$.now.price',
        },
        ...[1, 2].map((berth) => ({ name: `meter${berth}`, kind: 'tag', path: `berth/${berth}/shore/energy_import` })),
      ],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'energy', how: 'upsert', key: ['voyage', 'at'] },
          fields: [
            { into: 'voyage', from: 'call_voyage' },
            { into: 'at', from: 'time' },
            { into: 'ship', from: 'call_ship' },
            { into: 'berth', from: 'call_berth' },
            { into: 'meter_kwh', from: meterOfBerth },
            { into: 'eur_mwh', from: 'price' },
          ],
        },
        {
          ...{ kind: 'call', number: 2, linkId: tariffs, operation: 'add_call' },
          fields: [
            { into: 'berth', from: 'call_berth' },
            { into: 'voyage', from: 'call_voyage' },
            { into: 'kwh', from: meterOfBerth },
            { into: 'price', from: 'price' },
          ],
        },
      ],
    },
    {
      name: 'Visits that agents hand in',
      when: [{ kind: 'client', outletId: server, filter: 'visits' }],
      take: ['voyage', 'ship', 'berth'].map((name) => ({ name, kind: 'member', path: `$.${name}` })),
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'visit', how: 'upsert', key: ['voyage'] },
          fields: [
            { into: 'voyage', from: 'voyage' },
            { into: 'ship', from: 'ship' },
            { into: 'berth', from: 'concat("berth/", berth)' },
            { into: 'handed_in_at', from: 'time' },
          ],
        },
      ],
    },
    {
      name: 'Lamp hours for maintenance',
      when: [{ kind: 'message', linkId: quay, filter: 'quay/lamp/+' }],
      take: [{ name: 'watts', kind: 'member', path: '$.supply.watts' }],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: callBook, table: 'lamp_hours' },
          fields: [
            { into: 'at', from: 'time' },
            { into: 'lamp', from: 'part3' },
            { into: 'watts', from: 'watts' },
          ],
        },
      ],
    },
  ].map((draft) => bridgeContract.parse(draft))
