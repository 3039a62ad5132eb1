import { displayContract } from '#core/displays/settings'

/** What hangs on the wall of the control room, and what an electrician opens for a feeder. */
export const demoDisplays = () =>
  [
    {
      ...{ name: 'The port now', description: 'For the control room: power at all berths, and what is not well' },
      panes: [
        {
          ...{ x: 0, y: 0, w: 3, h: 2, title: 'Berth 1' },
          shows: { kind: 'value', of: 'berth/1/shore/active_power', decimals: 0, scale: { low: 0, high: 2500 } },
        },
        {
          ...{ x: 3, y: 0, w: 3, h: 2, title: 'Berth 2' },
          shows: { kind: 'value', of: 'berth/2/shore/active_power', decimals: 0, scale: { low: 0, high: 2500 } },
        },
        {
          ...{ x: 6, y: 0, w: 3, h: 2, title: 'Berth 3' },
          shows: { kind: 'value', of: 'berth/3/shore/active_power', decimals: 0, scale: { low: 0, high: 2500 } },
        },
        {
          ...{ x: 9, y: 0, w: 3, h: 2, title: 'Breaker of berth 1' },
          shows: {
            ...{ kind: 'state', of: 'berth/1/shore/breaker_closed' },
            marks: [
              { is: 'true', text: 'closed', mark: 'flowing' },
              { is: 'false', text: 'open', mark: 'broken' },
            ],
          },
        },
        {
          ...{ x: 0, y: 2, w: 8, h: 4, title: 'Shore power, the last 10 minutes' },
          shows: { kind: 'trend', of: ['berth/1/shore/active_power', 'berth/2/shore/active_power'], length: 600_000 },
        },
        { x: 8, y: 2, w: 4, h: 4, shows: { kind: 'troubles', most: 20 } },
        {
          ...{ x: 0, y: 6, w: 6, h: 3, title: 'Berth 1, minute by minute' },
          shows: { kind: 'windows', of: 'berth/1/shore/active_power', each: { count: 1, unit: 'minute' }, count: 20 },
        },
        {
          ...{ x: 6, y: 6, w: 6, h: 3, title: 'Converter' },
          shows: { kind: 'table', of: ['converter/frequency', 'converter/power', 'office/grid/frequency'] },
        },
      ],
    },
    {
      ...{ name: 'Feeder', class: 'Feeder', description: 'One feeder: its load, its breaker, and what it gave today' },
      panes: [
        { x: 0, y: 0, w: 3, h: 2, shows: { kind: 'value', of: 'load', decimals: 1, scale: { low: 0, high: 100 } } },
        {
          ...{ x: 3, y: 0, w: 3, h: 2 },
          shows: {
            ...{ kind: 'state', of: 'closed' },
            marks: [
              { is: 'true', text: 'closed', mark: 'flowing' },
              { is: 'false', text: 'open', mark: 'broken' },
            ],
          },
        },
        { x: 6, y: 0, w: 3, h: 2, shows: { kind: 'value', of: 'peak_today', decimals: 0 } },
        { x: 9, y: 0, w: 3, h: 2, shows: { kind: 'value', of: 'energy_today', decimals: 0 } },
        { x: 0, y: 2, w: 8, h: 4, title: 'Power, the last 10 minutes', shows: { kind: 'trend', of: ['power', 'load'], length: 600_000 } },
        { x: 8, y: 2, w: 4, h: 4, shows: { kind: 'troubles' } },
        {
          ...{ x: 0, y: 6, w: 8, h: 3, title: 'Load, minute by minute' },
          shows: { kind: 'windows', of: 'load', how: 'max', each: { count: 1, unit: 'minute' }, count: 20 },
        },
        { x: 8, y: 6, w: 4, h: 3, title: 'On its plate', shows: { kind: 'table', of: ['serial_number', 'rated_power', 'load_1min'] } },
      ],
    },
  ].map((one) => displayContract.parse(one))
