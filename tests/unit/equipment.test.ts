import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { propertyPlan } from '#core/equipment/follow'
import { gathered } from '#core/equipment/gather'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classProblems, equipmentProblems } from '#core/equipment/problems'
import { proposals } from '#core/equipment/proposals'
import { rolledUp } from '#core/equipment/rollup'
import { classContract, equipmentContract, rollupWays, type ClassDraft } from '#core/equipment/settings'
import { windowAt, windowProblem, windowUnits, type Window } from '#core/equipment/windows'
import { offsetAt } from '#core/equipment/zone'
import { OpenBucket } from '#core/history/bucket'
import { quality } from '#core/tags/quality'

const hour = 3_600_000
const utc = (text: string) => Date.parse(`${text}Z`)
const spanOf = (window: Window, at: number, zone: string) => {
  const { from, to } = windowAt(window, at, zone)
  return [new Date(from).toISOString().slice(0, 19), new Date(to).toISOString().slice(0, 19)]
}

describe('windows', () => {
  it('follow the clock on the wall over its changes', () => {
    const day = { count: 1, unit: 'day' } as const
    // put forward on 2026-03-29, back on 2026-10-25
    expect(spanOf(day, utc('2026-03-29T12:00:00'), 'Europe/Oslo')).toEqual(['2026-03-28T23:00:00', '2026-03-29T22:00:00'])
    expect(spanOf(day, utc('2026-10-25T12:00:00'), 'Europe/Oslo')).toEqual(['2026-10-24T22:00:00', '2026-10-25T23:00:00'])
    const six = { count: 6, unit: 'hour' } as const
    expect(spanOf(six, utc('2026-10-25T02:30:00'), 'Europe/Oslo')).toEqual(['2026-10-24T22:00:00', '2026-10-25T05:00:00'])
    const one = { count: 1, unit: 'hour' } as const
    expect(spanOf(one, utc('2026-10-25T00:30:00'), 'Europe/Oslo')).toEqual(['2026-10-25T00:00:00', '2026-10-25T01:00:00'])
    expect(spanOf(one, utc('2026-10-25T01:30:00'), 'Europe/Oslo')).toEqual(['2026-10-25T01:00:00', '2026-10-25T02:00:00'])
  })

  it('begin where calendars begin', () => {
    const at = utc('2026-11-28T07:00:00')
    expect(spanOf({ count: 1, unit: 'week' }, at, 'UTC')).toEqual(['2026-11-23T00:00:00', '2026-11-30T00:00:00'])
    expect(spanOf({ count: 1, unit: 'month' }, at, 'UTC')).toEqual(['2026-11-01T00:00:00', '2026-12-01T00:00:00'])
    expect(spanOf({ count: 1, unit: 'quarter' }, at, 'UTC')).toEqual(['2026-10-01T00:00:00', '2027-01-01T00:00:00'])
    expect(spanOf({ count: 1, unit: 'year' }, at, 'America/St_Johns')).toEqual(['2026-01-01T03:30:00', '2027-01-01T03:30:00'])
    expect(spanOf({ count: 15, unit: 'minute' }, utc('2026-11-28T07:16:00'), 'Asia/Kathmandu')).toEqual([
      '2026-11-28T07:15:00',
      '2026-11-28T07:30:00',
    ])
    expect(spanOf({ count: 1, unit: 'hour' }, utc('2026-11-28T07:16:00'), 'Asia/Kathmandu')).toEqual([
      '2026-11-28T07:15:00',
      '2026-11-28T08:15:00',
    ])
  })

  const windows = fc
    .record({ count: fc.constantFrom(1, 2, 3, 5, 6, 15, 30), unit: fc.constantFrom(...windowUnits) })
    .filter((window) => windowProblem(window) === null)
  const zones = fc.constantFrom('UTC', 'Europe/Oslo', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'America/St_Johns')
  const moments = fc.integer({ min: utc('2025-01-01T00:00:00'), max: utc('2027-12-31T00:00:00') })

  it('lie one behind the other, without holes, whatever the clocks do', () => {
    fc.assert(
      fc.property(windows, zones, moments, (window, zone, at) => {
        const { from, to } = windowAt(window, at, zone)
        expect(from).toBeLessThanOrEqual(at)
        expect(to).toBeGreaterThan(at)
        expect(windowAt(window, from, zone)).toEqual({ from, to })
        expect(windowAt(window, to - 1, zone)).toEqual({ from, to })
        expect(windowAt(window, to, zone).from).toBe(to)
      }),
      { numRuns: 400 },
    )
  })

  it('are ahead of UTC as the zone says', () => {
    expect([offsetAt('Europe/Oslo', utc('2026-01-01T00:00:00')), offsetAt('Europe/Oslo', utc('2026-07-01T00:00:00'))]).toEqual([
      hour,
      2 * hour,
    ])
    expect(offsetAt('Asia/Kathmandu', 0)).toBe(5.5 * hour)
  })

  it.each([
    [{ count: 0, unit: 'minute' }, /at least one second/],
    [{ count: 7, unit: 'minute' }, /divide an hour evenly/],
    [{ count: 24, unit: 'hour' }, /divide a day/],
    [{ count: 2, unit: 'month' }, /one window for each month/],
    [{ count: 1.5, unit: 'hour' }, /at least one second/],
  ] as const)('of %o are refused', (window, message) => expect(windowProblem(window)).toMatch(message))
})

describe('rollups', () => {
  const window = (samples: [number, number][], begun = NaN) => {
    const bucket = new OpenBucket(0, 10_000)
    bucket.begin(begun)
    for (const [at, value] of samples) bucket.add(at, value)
    return bucket.close() as OpenBucket
  }
  it('say of a window what it was', () => {
    const whole = window(
      [
        [2000, 4],
        [6000, 10],
      ],
      1,
    )
    const said = Object.fromEntries(rollupWays.map((how) => [how, rolledUp(how, whole)]))
    expect(said).toMatchObject({
      min: { value: 1, quality: quality.Good },
      max: { value: 10 },
      range: { value: 9 },
      mean: { value: 7 },
      'mean by time': { value: (1 * 2 + 4 * 4 + 10 * 4) / 10 },
      sum: { value: 14 },
      count: { value: 2 },
      first: { value: 4 },
      last: { value: 10 },
      deviation: { value: 3 },
      integral: { value: 58 / 3600 },
    })
  })
  it('do not count what held before where the first sample comes with their beginning', () => {
    const said = window([[0, 4]], 99)
    expect([rolledUp('max', said), rolledUp('mean by time', said)]).toEqual([
      { value: 4, quality: quality.Good },
      { value: 4, quality: quality.Good },
    ])
    const part = new OpenBucket(0, 1000)
    part.add(0, 4)
    const folded = new OpenBucket(0, 10_000)
    folded.begin(99)
    folded.fold(part.close(), 1000)
    expect(rolledUp('max', folded.close() as OpenBucket).value).toBe(4)
  })
  it('are uncertain where a part is not known, and bad where nothing is', () => {
    expect(rolledUp('max', window([[5000, 3]])).quality).toBe(quality.UncertainDataSubNormal)
    expect(rolledUp('max', window([]))).toEqual({ value: null, quality: quality.BadNoData })
    expect(rolledUp('count', window([])).value).toBe(0)
  })
  it('have the deviation of all samples, also from parts', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 2, maxLength: 60 }),
        fc.integer({ min: 1, max: 59 }),
        (values, cut) => {
          const parts = [values.slice(0, cut), values.slice(cut)].filter((part) => part.length > 0)
          const whole = new OpenBucket(0, 1_000_000)
          let at = 0
          for (const part of parts) {
            const inner = new OpenBucket(at, at + part.length)
            for (const value of part) inner.add(at++, value)
            whole.fold(inner.close(), at)
          }
          const mean = values.reduce((sum, value) => sum + value, 0) / values.length
          const plain = Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length)
          expect(rolledUp('deviation', whole).value).toBeCloseTo(plain, 6)
        },
      ),
    )
  })
})

it('gathers what children have, and says where some are not good', () => {
  const of = (...values: (number | null)[]) => values.map((value) => ({ value, quality: value === null ? 0x80000000 : 0 }))
  expect(gathered('sum', of(1, 2, 3))).toEqual({ value: 6, quality: quality.Good })
  expect(gathered('mean', of(1, null, 3))).toEqual({ value: 2, quality: quality.UncertainDataSubNormal })
  expect(gathered('max', of(null))).toMatchObject({ value: null })
  const uncertain = { value: 4, quality: quality.UncertainDataSubNormal }
  expect(gathered('sum', [...of(1), uncertain])).toEqual({ value: 5, quality: quality.UncertainDataSubNormal })
  expect(gathered('count', of(1, null))).toEqual({ value: 1, quality: quality.Good })
  expect([gathered('all true', of(1, 1)).value, gathered('all true', of(1, 0)).value, gathered('any true', of(1, 0)).value]).toEqual([
    true,
    false,
    true,
  ])
})

const classOf = (name: string, properties: object[], more: object = {}) => classContract.parse({ name, properties, ...more })
const input = (name: string, more: object = {}) => ({ name, made: { kind: 'input' }, ...more })
const formula = (name: string, text: string) => ({ name, made: { kind: 'formula', formula: text } })
const rollup = (name: string, of: string, how = 'mean', count = 15, over = 1) => ({
  name,
  made: { kind: 'rollup', of, how, window: { count, unit: 'minute' }, over },
})
const feeder = classOf('Feeder', [input('power'), formula('double', '2 * power'), rollup('mean', 'power')])
const special = classOf('Special feeder', [input('angle')], { parent: 'Feeder' })
const pieces = (...drafts: object[]) => drafts.map((draft, i) => ({ ...equipmentContract.parse(draft), id: i + 1 }))
const site = pieces(
  { path: 'Port' },
  { path: 'Port/A', class: 'Feeder', bindings: { power: 'a/power' } },
  { path: 'Port/B', class: 'Special feeder' },
)

describe('classes', () => {
  const problems = (draft: ClassDraft, before: string | null = null) => classProblems(draft, before, new Model([feeder, special], site))

  it.each([
    [{ ...feeder, parent: 'Special feeder' }, 'Feeder', 'parent', /made from itself/],
    [{ ...feeder, parent: 'Feeder' }, 'Feeder', 'parent', /not made from itself/],
    [{ ...feeder, name: 'Other', parent: 'Nowhere' }, null, 'parent', /no such class/],
    [classOf('X', [formula('a', 'b + 1'), formula('b', 'a + 1')]), null, 'properties.0.made', /reads itself in the end/],
    [classOf('X', [input('name', { type: 'string' }), rollup('mean', 'name')]), null, 'properties.1.made.of', /is text/],
    [classOf('X', [input('on', { type: 'bool' }), rollup('most', 'on', 'max')]), null, 'properties.1.made.how', /true or false/],
    [classOf('X', [input('n'), rollup('t', 'n', 'time true')]), null, 'properties.1.made.how', /no switch/],
    [classOf('X', [rollup('r', 'r')]), null, 'properties.0.made.of', /of another property/],
    [classOf('X', [input('power', { type: 'string' })], { parent: 'Feeder' }), null, 'properties.0.type', /would break/],
    [classOf('X', [{ name: 'c', type: 'bool', made: { kind: 'constant', value: 3 } }]), null, 'properties.0.made.value', /true or false/],
  ] as [ClassDraft, string | null, string, RegExp][])('that are not sound are told why: %#', (draft, before, path, message) => {
    expect(problems(draft, before)).toContainEqual({ path, message: expect.stringMatching(message) as string })
  })

  it('that are sound are left in peace', () => expect(problems(feeder, 'Feeder')).toEqual([]))

  it('take no two properties of one name, and no name that formulas cannot speak of', () => {
    expect(classContract.safeParse({ name: 'X', properties: [input('a'), input('A')] }).success).toBe(false)
    expect(classContract.safeParse({ name: 'X', properties: [input('1st')] }).success).toBe(false)
  })
})

describe('equipment', () => {
  const model = new Model([feeder, special], site)
  const problems = (draft: object, id: number | null = null) => equipmentProblems(equipmentContract.parse(draft), id, model)

  it.each([
    [{ path: 'Port/C', class: 'Nothing' }, null, 'class', /no such class/],
    [{ path: 'Elsewhere/C' }, null, 'path', /no equipment “Elsewhere”/],
    [{ path: 'port/a' }, null, 'path', /already/],
    [{ path: 'Port/A/Port' }, 1, 'path', /part of itself/],
    [{ path: 'Port/C', class: 'Feeder', bindings: { double: 'x' } }, null, 'bindings.double', /no input/],
    [{ path: 'Port/C', class: 'Feeder', constants: { power: 3 } }, null, 'constants.power', /no constant/],
    [{ path: 'Port/C', relations: [{ kind: 'feeds', to: 'Port/D' }] }, null, 'relations.0.to', /no such equipment/],
  ] as [object, number | null, string, RegExp][])('that is not sound is told why: %#', (draft, id, path, message) => {
    expect(problems(draft, id)).toContainEqual({ path, message: expect.stringMatching(message) as string })
  })

  it('does not share an input that its class wants alone', () => {
    const alone = classOf('Meter', [input('power', { made: { kind: 'input', alone: true } })])
    const draft = equipmentContract.parse({ path: 'Port/M', class: 'Meter', bindings: { power: 'a/power' } })
    expect(equipmentProblems(draft, null, new Model([alone, feeder], site))).toMatchObject([
      { path: 'bindings.power', message: /“Port\/A” has this tag/ },
    ])
  })

  it('has what its class has, and what that one is made from', () => {
    expect(propertyTags(model, site[2]!).map(({ path }) => path)).toEqual(['Port/B/power', 'Port/B/double', 'Port/B/mean', 'Port/B/angle'])
    expect(propertyTags(model, site[1]!)[1]!.made).toEqual({ kind: 'formula', formula: '2 * power', inputs: { power: 'Port/A/power' } })
  })

  it('keeps its tags over changes, but for rollups with another window', () => {
    const known = [...model.equipment.values()].flatMap((one) => propertyTags(model, one)).map((tag, i) => ({ ...tag, id: i + 1 }))
    expect(propertyPlan(model, known)).toEqual({ make: [], change: [], remove: [] })
    const longer = classOf('Feeder', [input('power', { unit: 'kW' }), formula('double', '2 * power'), rollup('mean', 'power', 'mean', 30)])
    const plan = propertyPlan(new Model([longer, special], site), known)
    expect(plan.change.map(({ path, unit }) => [path, unit])).toEqual([
      ['Port/A/power', 'kW'],
      ['Port/B/power', 'kW'],
    ])
    expect(plan.make.map(({ path }) => path)).toEqual(['Port/A/mean', 'Port/B/mean'])
    expect(plan.remove.map(({ path }) => path)).toEqual(['Port/A/mean', 'Port/B/mean'])
    const sliding = classOf('Feeder', [input('power'), formula('double', '2 * power'), rollup('mean', 'power', 'mean', 15, 4)])
    expect(propertyPlan(new Model([sliding, special], site), known).make.map(({ path }) => path)).toEqual(['Port/A/mean', 'Port/B/mean'])
    const moved = new Model([feeder, special], [site[0]!, { ...site[1]!, path: 'Port/Z' }, site[2]!])
    expect(propertyPlan(moved, known)).toMatchObject({
      make: [],
      remove: [],
      change: [{ path: 'Port/Z/power' }, { path: 'Port/Z/double' }, { path: 'Port/Z/mean' }],
    })
  })

  it('is proposed tags of the same name, type and unit, and none where two fit as well', () => {
    const tags = [
      { path: 'berth/1/active_power', type: 'float32', unit: 'kW' },
      { path: 'berth/1/power_factor', type: 'float32', unit: '' },
      { path: 'berth/1/name', type: 'string', unit: '' },
    ] as const
    const wanted = classOf('X', [input('active_power', { unit: 'kW' }), input('name', { type: 'string' }), input('angle')]).properties
    expect(proposals(wanted, tags)).toEqual([
      { property: 'active_power', path: 'berth/1/active_power', why: 'the same name, in kW' },
      { property: 'name', path: 'berth/1/name', why: 'the same name' },
    ])
    expect(proposals(wanted, [...tags, { ...tags[0], path: 'berth/2/active_power' }]).map(({ property }) => property)).toEqual(['name'])
  })
})
