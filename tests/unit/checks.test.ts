import { describe, expect, it } from 'vitest'
import { changedSince, checkedOf } from '#core/checks/again'
import { reportTexts, type Report } from '#core/checks/report'
import { reportPage } from '#core/checks/reportPage'
import { digestOfParts, touchedParts } from '../../server/checks/seal'
import { agrees, stateOf } from '#core/checks/state'
import { rawBytesIn } from '#core/traffic/rawBytes'
import { checkDraft, newCheckSheet } from '#shared/checks'
import { reportPdf } from '../../server/worker/reportPdf'

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

const onPaper = (more: Partial<Report> = {}): Report => ({
  ...{ site: 'Harrow Sound', revision: 7, name: 'Berth 1 & 2', against: 'Panel', note: '', digest: 'ab12' },
  ...{ madeBy: 'ida', madeAt: 0, closedBy: null, closedAt: null },
  points: [
    {
      ...{ path: 'berth/1/power', source: 'Meters, holding/40', unit: 'kW', state: 'good', changed: [] },
      last: {
        ...{ at: 0, who: 'ida', way: 'set', expected: '350', seen: '<b>349</b>', remark: '' },
        evidence: {
          at: 0,
          stages: [{ title: 'Bytes', text: '43 AF', detail: '' }],
          frames: [{ at: 0, out: false, length: 300, bytes: Buffer.from([0, 1, 0x43, 0xaf]).toString('base64'), summary: '2 words' }],
        },
      },
    },
    {
      ...{ path: 'berth/1/volts', source: '', unit: '', state: 'again', last: null },
      changed: [{ field: 'unit', before: 'V', after: 'kV' }],
    },
  ],
  ...more,
})

it('a sheet on paper tells all of it, with nothing that could run, and its digest', () => {
  const page = reportPage(reportTexts(onPaper()))
  expect(page).toContain('1 of 2 points good')
  expect(page).toContain('&lt;b&gt;349&lt;/b&gt; kW')
  expect(page).toContain('<b class="again">to be checked again</b><br>unit: V → kV')
  expect(page).toContain('00 01 43 AF')
  expect(page).toContain('2 words (300 bytes)')
  expect(page).toContain('(SHA-256): ab12.')
  expect(page).not.toMatch(/<script|<b>349|https?:/)
})

it('a sheet is printed as PDF, over as many pages as it needs', async () => {
  const points = Array.from({ length: 90 }, () => onPaper().points).flat()
  const texts = reportTexts(onPaper({ name: 'Привет, Łódź', points: [...points, { ...points[1]!, path: 'long/'.repeat(4000) }] }))
  const bytes = await reportPdf(texts, 0)
  const pdf = Buffer.from(bytes).toString('latin1')
  expect(pdf.startsWith('%PDF-1.')).toBe(true)
  expect(pdf.trimEnd().endsWith('%%EOF')).toBe(true)
  const pages = Number(/\/Type \/Pages[^>]*?\/Count (\d+)/s.exec(pdf)![1])
  expect(pages).toBeGreaterThan(8)
  expect(pages).toBeLessThan(60)
  // whoever opens it needs no fonts
  expect(pdf).toContain('/FontFile2')
})

describe('what was sealed', () => {
  const then = { sheet: 'a1', 12: 'b2', 7: 'c3' }

  it('has the same digest in whatever order its parts come, and another one for other parts', () => {
    expect(digestOfParts({ 7: 'c3', 12: 'b2', sheet: 'a1' })).toBe(digestOfParts(then))
    // echo -e '12 b2\n7 c3\nsheet a1' | sha256sum
    expect(digestOfParts(then)).toBe('3556aa7949234b29b3e9b4660ff0e116618fef7b03be9eb5f06b82a743140a27')
    expect(digestOfParts({ ...then, 7: 'c4' })).not.toBe(digestOfParts(then))
  })

  it('tells which of its parts became another, came, or went', () => {
    expect(touchedParts(then, then)).toEqual([])
    expect(touchedParts(then, { sheet: 'a1', 12: 'b3', 9: 'd4' })).toEqual([
      { key: '7', what: 'removed' },
      { key: '12', what: 'changed' },
      { key: '9', what: 'added' },
    ])
  })
})

it.each([
  ['43 AF 1A 00', [0x43, 0xaf, 0x1a, 0]],
  ['bit 3 of 08', [8]],
  ['0f', [15]],
  ['none yet', null],
  ['41 42 … (200 bytes)', null],
  ['4142', null],
])('the bytes of “%s” are %j', (text, bytes) => {
  expect(rawBytesIn(text)).toEqual(bytes && Uint8Array.from(bytes))
})
