import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { limitProblems, limitsContract, type LimitInput } from '#core/alarms/limits'
import { LimitWatch } from '#core/alarms/watch'
import { alarmText, limitsLine, limitWords, readLimits } from '#core/alarms/words'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { tagColumns } from '#shared/tagCsv/columns'
import { tagDraft } from '#shared/tags'

const limit = (given: LimitInput) => limitsContract.parse([given])[0]!
/** What becomes of a limit over values, one a second: the seconds at which it turned, with a sign for over. */
const turnsOf = (given: LimitInput, values: (TagValue | null)[]) => {
  const watch = new LimitWatch(limit(given), false)
  return values.flatMap((value, second) => {
    const at = second * 1000
    const ticked = watch.tick(at)
    const code = value === null ? quality.BadNoCommunication : quality.Good
    const taken = watch.take({ value: value ?? undefined, quality: code, at, now: at })
    return [ticked, taken].flatMap((turn) => (turn ? [turn.active ? second : -second] : []))
  })
}

describe('a limit', () => {
  it('is crossed beyond it, and over once the value came back by its band', () => {
    expect(turnsOf({ kind: 'high', at: 90 }, [80, 90, 91, 90, 89, 95])).toEqual([2, -3, 5])
    expect(turnsOf({ kind: 'high', at: 90, band: 5 }, [91, 89, 86, 85, 92])).toEqual([0, -3, 4])
    expect(turnsOf({ kind: 'low', at: 10, band: 2 }, [11, 10, 9, 11, 12])).toEqual([2, -4])
    expect(turnsOf({ kind: 'lower', at: -5 }, [0, -6])).toEqual([1])
  })

  it('with a delay only once the value stayed beyond for so long, whether or not it comes again', () => {
    const high: LimitInput = { kind: 'high', at: 90, delay: 3000 }
    expect(turnsOf(high, [95, 95, 80, 95, 95, 95, 95, 95])).toEqual([6])
    const watch = new LimitWatch(limit(high), false)
    watch.take({ value: 95, quality: quality.Good, at: 0, now: 0 })
    expect(watch.waits).toBe(true)
    expect(watch.tick(2999)).toBeNull()
    expect(watch.tick(3100)).toMatchObject({ active: true, at: 3000, value: 95 })
    expect(watch.waits).toBe(false)
  })

  it('says nothing of a value that is bad: what is an alarm stays one, what waits for its delay begins anew', () => {
    expect(turnsOf({ kind: 'high', at: 90 }, [95, null, null, 80])).toEqual([0, -3])
    expect(turnsOf({ kind: 'high', at: 90, delay: 2000 }, [95, null, 95, 95, 95])).toEqual([4])
    expect(turnsOf({ kind: 'high', at: 90 }, [NaN, 'text', 95])).toEqual([2])
  })

  it('of a rate counts the way that it says, and is over when nothing moves any more', () => {
    expect(turnsOf({ kind: 'rate', at: 5 }, [0, 3, 10, 12])).toEqual([2, -3])
    expect(turnsOf({ kind: 'rate', at: 5, way: 'rising' }, [0, -10, -20, 0])).toEqual([3])
    expect(turnsOf({ kind: 'rate', at: 5, way: 'falling' }, [0, -10])).toEqual([1])
    const watch = new LimitWatch(limit({ kind: 'rate', at: 5 }), false)
    for (const [at, value] of [[0, 0], [1000, 20]] as const) watch.take({ value, quality: quality.Good, at, now: at }) // prettier-ignore
    expect(watch.isActive).toBe(true)
    expect(watch.tick(2000)).toBeNull()
    expect(watch.tick(3000)).toMatchObject({ active: false })
  })

  it('of states is crossed while the value is one of them, or none', () => {
    expect(turnsOf({ kind: 'state', values: [3, 4] }, [1, 3, 4, 2])).toEqual([1, -3])
    expect(turnsOf({ kind: 'state', not: true, values: [true] }, [true, false, true])).toEqual([1, -2])
    expect(turnsOf({ kind: 'state', values: ['jammed'] }, ['runs', 'jammed'])).toEqual([1])
    expect(turnsOf({ kind: 'state', values: [7] }, [7n, 8n])).toEqual([0, -1])
  })

  it('turns no more often than values come, by turns, whatever they are', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.integer({ min: -20, max: 20 }), fc.constant(null))),
        fc.nat({ max: 8 }),
        fc.nat({ max: 3 }),
        (values, band, seconds) => {
          const turns: boolean[] = []
          const watch = new LimitWatch(limit({ kind: 'high', at: 3, band, delay: seconds * 1000 }), false)
          values.forEach((value, i) => {
            for (const turn of [
              watch.tick(i * 1000),
              watch.take({
                value: value ?? undefined,
                quality: value === null ? quality.BadNoCommunication : 0,
                at: i * 1000,
                now: i * 1000,
              }),
            ])
              if (turn) turns.push(turn.active)
          })
          turns.forEach((active, i) => expect(active).toBe(i % 2 === 0))
          const last = values.filter((value) => value !== null).at(-1)
          if (watch.isActive && last !== undefined) expect(last).toBeGreaterThan(3 - band - 0.001)
        },
      ),
    )
  })
})

describe('limits of a tag', () => {
  const messages = (given: LimitInput[]) => limitsContract.safeParse(given).error?.issues.map(({ message }) => message) ?? []

  it('lie in their order, each with a name of its own', () => {
    expect(
      messages([
        { kind: 'high', at: 5 },
        { kind: 'higher', at: 9 },
        { kind: 'low', at: 1 },
        { kind: 'lower', at: 0 },
      ]),
    ).toEqual([])
    expect(
      messages([
        { kind: 'high', at: 5 },
        { kind: 'higher', at: 5 },
      ]),
    ).toEqual(['It lies above high, which is 5.'])
    expect(
      messages([
        { kind: 'high', at: 5 },
        { kind: 'high', at: 6 },
      ]),
    ).toContain('There is a limit “high” already; give one of them a name.')
    expect(messages([{ kind: 'state', values: [] }])).toEqual(['Which values.'])
    expect(messages([{ kind: 'rate', at: 0 }])).toHaveLength(1)
  })

  it('fit the type of their tag', () => {
    const at = (given: LimitInput, type: 'string' | 'bool' | 'float64') => limitProblems([limit(given)], type).map(({ path }) => path)
    expect(at({ kind: 'high', at: 5 }, 'float64')).toEqual([])
    expect(at({ kind: 'high', at: 5 }, 'string')).toEqual(['limits.0.kind'])
    expect(at({ kind: 'state', values: [1] }, 'bool')).toEqual(['limits.0.values'])
    expect(at({ kind: 'state', values: ['jammed'] }, 'string')).toEqual([])
  })

  it('stand in one line and come back from it as they were', () => {
    expect(readLimits('high 90 back 2 after 5s trouble; low 10; jammed: is 3|4 quiet; rising 2.5 over 60s')).toMatchObject({
      ok: true,
      value: [
        { kind: 'high', at: 90, band: 2, delay: 5000, severity: 'trouble' },
        { kind: 'low', at: 10, severity: 'caution', acknowledge: true },
        { kind: 'state', name: 'jammed', values: [3, 4], acknowledge: false },
        { kind: 'rate', way: 'rising', at: 2.5, over: 60_000 },
      ],
    })
    for (const wrong of ['high', 'high x', 'above 3', 'high 3 back', 'high 3 loud']) expect(readLimits(wrong).ok).toBe(false)
    const value = fc.oneof(fc.boolean(), fc.integer(), fc.string({ minLength: 1, maxLength: 12 }))
    const given = fc.record({
      ...{ kind: fc.constant('state'), not: fc.boolean(), values: fc.array(value, { minLength: 1, maxLength: 4 }) },
      ...{ name: fc.constantFrom('', 'jammed'), acknowledge: fc.boolean(), severity: fc.constantFrom('note', 'caution', 'trouble') },
    })
    fc.assert(
      fc.property(given, (state) => {
        const limits = limitsContract.parse([state, { kind: 'high', at: 1e21, band: 0.1 }])
        expect(readLimits(limitsLine(limits))).toEqual({ ok: true, value: limits })
      }),
    )
  })

  it('keep their texts where a table changes something else of them', () => {
    const tag = tagDraft.parse({
      ...{ path: 'tank/level', source: { kind: 'memory' }, type: 'float64' },
      limits: [{ kind: 'high', at: 80, text: 'The tank runs over' }],
    })
    const column = tagColumns.find(({ name }) => name === 'limits')!
    expect(column.put(tag, 'high 85; low 10', null as never)).toBeNull()
    expect(tag.limits).toMatchObject([
      { at: 85, text: 'The tank runs over' },
      { at: 10, text: '' },
    ])
  })

  it('are told in words', () => {
    const high = limit({ kind: 'high', at: 90, delay: 5000 })
    expect(limitWords(high, 'kW')).toBe('above 90 kW for 5 s')
    expect(alarmText(high, 95.5, 'float64', 'kW', [])).toBe('high: above 90 kW for 5 s, 95.5 kW')
    expect(alarmText(limit({ kind: 'state', values: [3] }), 3, 'int16', '', [{ value: 3, name: 'jammed' }])).toBe(
      'state: 3 = jammed, 3 = jammed',
    )
    expect(alarmText(limit({ kind: 'low', at: 1, text: 'Tank runs dry' }), 0, 'float64', 'm', [])).toBe('Tank runs dry')
  })
})
