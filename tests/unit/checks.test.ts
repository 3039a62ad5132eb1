import { describe, expect, it } from 'vitest'
import { changedSince, checkedOf } from '#core/checks/again'
import { reportPage, type Report } from '#core/checks/report'
import { agrees, stateOf } from '#core/checks/state'
import { checkDraft, newCheckSheet } from '#shared/checks'

const tag = {
  source: { kind: 'point', linkId: 1, address: 'holding/40', options: {}, interval: null },
  ...{ type: 'float32', access: 'read', scaling: null, odd: null, rawUnit: '', unit: 'kW', names: [] },
}
const link = {
  name: 'Meters',
  kind: 'modbus-tcp',
  settings: { host: '10.8.0.4', port: 502, order: 'CDAB', interval: 1000, patience: { answer: 300 } },
}
const checked = checkedOf({ ...tag, link })
const now = (more: object = {}, settings: object = {}, name = 'Meters') =>
  checkedOf({ ...tag, ...more, link: { ...link, name, settings: { ...link.settings, ...settings } } } as never)

describe('a point that was checked', () => {
  it('stays so where only how often and how patiently it is asked, or a name, became another', () => {
    const source = { ...tag.source, interval: 5000 }
    expect(changedSince(checked, now({ source }, { interval: 50, patience: { answer: 9000 } }, 'Meters of berth 1'))).toEqual([])
  })

  it('is to be checked again where its address, what is made of it, or where its link goes became another', () => {
    expect(changedSince(checked, now({ source: { ...tag.source, address: 'holding/42' } }))).toEqual([
      { field: 'source.address', before: 'holding/40', after: 'holding/42' },
    ])
    expect(changedSince(checked, now({ scaling: { gain: 0.1, offset: 0 }, unit: 'MW' })).map(({ field }) => field)).toEqual([
      ...['scaling.gain', 'scaling.offset', 'unit'],
    ])
    expect(changedSince(checked, now({}, { host: '10.8.0.5', order: 'ABCD' })).map(({ field }) => field)).toEqual([
      ...['link.settings.host', 'link.settings.order'],
    ])
    expect(changedSince(checked, checkedOf({ ...tag, link: null })).length).toBeGreaterThan(0)
  })

  it('is what its last check says, unless that was good and something is another thing since', () => {
    const changed = [{ field: 'unit', before: 'kW', after: 'MW' }]
    expect(stateOf(null, [])).toBe('unchecked')
    expect([stateOf('good', []), stateOf('good', changed)]).toEqual(['good', 'again'])
    expect([stateOf('bad', changed), stateOf('open', changed)]).toEqual(['bad', 'open'])
    expect(stateOf('good', null)).toBe('gone')
  })
})

it.each([
  ['350', '350.4', true],
  ['350', '353', false],
  ['350 kW', '351', true],
  ['0', '0', true],
  ['0', '0.001', false],
  ['-5,25', '-5.25', true],
  ['closed', 'Closed', true],
  ['closed', 'open', false],
  ['1.2.3', '1.2.3', true],
  ['', '5', null],
  ['5', ' ', null],
])('whether “%s” and “%s” agree: %s', (expected, seen, verdict) => {
  expect(agrees(expected, seen)).toBe(verdict)
})

it('a check is refused with what no database keeps: NUL, and times that are none', () => {
  const evidence = { at: 1, value: '5', quality: 0, stages: [{ title: 'Bytes', text: '43 AF', detail: '' }] }
  const check = { key: '7b1f3c52-8a0e-4f0b-9a55-0d6f1d1c2e11', tag: 1, at: 1, way: 'set', outcome: 'good', evidence }
  const takes = (more: object) => checkDraft.safeParse({ ...check, ...more }).success
  expect([takes({}), takes({ at: 1e300 }), takes({ at: -1 }), takes({ remark: 'a\0b' })]).toEqual([true, false, false, false])
  expect(takes({ evidence: { ...evidence, stages: [{ title: 'a\0b', text: '', detail: '' }] } })).toBe(false)
  expect(newCheckSheet.safeParse({ name: 'Berth 1', below: ['berth\0'] }).success).toBe(false)
})

it('a sheet on paper tells all of it, with nothing that could run, and its digest', () => {
  const last = {
    at: 0,
    who: 'ida',
    way: 'set' as const,
    expected: '350',
    seen: '<b>349</b>',
    remark: '',
    evidence: [{ title: 'Bytes', text: '43 AF', detail: '' }],
  }
  const report: Report = {
    ...{
      site: 'Harrow Sound',
      revision: 7,
      name: 'Berth 1 & 2',
      against: 'Panel',
      note: '',
      madeBy: 'ida',
      madeAt: 0,
      closedBy: null,
      closedAt: null,
    },
    digest: 'ab12',
    points: [
      { path: 'berth/1/power', source: 'Meters, holding/40', unit: 'kW', state: 'good', why: '', last },
      { path: 'berth/1/volts', source: '', unit: '', state: 'again', why: 'unit: V → kV', last: null },
    ],
  }
  const page = reportPage(report)
  expect(page).toContain('1 of 2 points good')
  expect(page).toContain('&lt;b&gt;349&lt;/b&gt; kW')
  expect(page).toContain('unit: V → kV')
  expect(page).toContain('43 AF')
  expect(page).toContain('<code>ab12</code>')
  expect(page).not.toMatch(/<script|<b>349|https?:/)
})
