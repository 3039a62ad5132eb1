import { recordSetContract, type RecordSetDraft } from '#core/records/settings'

/** Rows of the vessel call book that are tags, one set of each kind. */
export const demoRecordSets = (linkId: number): RecordSetDraft[] =>
  [
    {
      name: 'Profile of the ship',
      folder: 'call_book/profile',
      how: {
        ...{ kind: 'cursor', from: { kind: 'table', table: 'power_profile' }, key: 'voyage' },
        ...{ again: { stamp: 'changed_at', every: 60_000 }, moves: ['next', 'previous', 'key'], starts: 'kept' },
      },
    },
    {
      name: 'Ships alongside',
      folder: 'call_book/alongside',
      how: {
        ...{ kind: 'snapshot', from: { kind: 'table', table: 'alongside' }, key: 'berth' },
        ...{ columns: ['number', 'ship', 'limit_kw', 'volts', 'hertz'], again: { every: 10_000 } },
      },
    },
    {
      name: 'Power plan',
      folder: 'call_book/plan',
      how: { kind: 'procedure', routine: 'power_plan', start: [{ parameter: 'hours', value: 6 }] },
    },
    {
      name: 'Tariff of the hour',
      folder: 'call_book/tariff',
      how: {
        ...{ kind: 'query', when: [{ kind: 'period', every: 60_000 }] },
        statement: "select season, hour, per_kwh from tariff where season = 'winter' and hour = extract(hour from now())",
      },
    },
  ].map((draft) => recordSetContract.parse({ ...draft, linkId }))
