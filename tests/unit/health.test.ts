import { describe, expect, it } from 'vitest'
import { Course } from '#core/statistics/course'
import { healthFactNames, healthFactOf, healthKinds, healthValue, isOfKind, isOfParts, type HealthSubject } from '#core/statistics/health'
import { Meter } from '#core/statistics/meter'
import { tagProblems } from '#shared/sources/registry'
import { tagDraft } from '#shared/tags'

const minute = 60_000
const now = 100 * minute + 5000

const subject = (more: Partial<HealthSubject> = {}): HealthSubject => {
  const meter = new Meter(now - 10_000)
  meter.answered(10)
  meter.answered(30)
  meter.failed('modbus.silent', null, 960)
  const part = new Meter(now)
  part.failed('modbus.exception 2', 4)
  return {
    ...{ of: 'link', name: 'Berth meters', flow: 'late', sentence: 'Unit 12 is silent', measured: meter.told(now), course: new Course() },
    part: (name) => (name === '12' ? part.told(now) : null),
    more: { tags: 9, good_tags: 7, bytes_in: 1234 },
    ...more,
  }
}

describe('what health tags show', () => {
  it('is how it flows, in every form that a consumer takes', () => {
    const shown = (flow: string) => (['flows', 'state', 'state_code'] as const).map((fact) => healthValue(subject({ flow }), fact, '', now))
    expect(shown('flowing')).toEqual([true, 'flowing', 3])
    expect(shown('late')).toEqual([false, 'late', 2])
    expect(shown('broken')).toEqual([false, 'broken', 1])
    expect(shown('off')).toEqual([false, 'off', 0])
    expect(healthValue(subject(), 'sentence', '', now)).toBe('Unit 12 is silent')
  })

  it('is what was measured of the whole and of its parts', () => {
    const value = (fact: Parameters<typeof healthValue>[1], part = '') => healthValue(subject(), fact, part, now)
    expect([value('requests'), value('answers'), value('failures'), value('answer_longest')]).toEqual([3, 2, 1, 30])
    expect(value('busy')).toBeCloseTo(10)
    expect([value('requests', '12'), value('failures', '12'), value('answer_p50', '12')]).toEqual([1, 1, 4])
    expect([value('requests', '13'), value('waiting'), value('good_tags'), value('bytes_in')]).toEqual([null, null, 7, 1234])
  })

  it('is nothing where nothing was answered, and no zero', () => {
    const silent = subject({ measured: new Meter(now).told(now) })
    expect(healthValue(silent, 'answer_p95', '', now)).toBeNull()
    expect(healthValue(silent, 'requests', '', now)).toBe(0)
  })

  it('goes by the last whole minute, which may have been without a request', () => {
    const course = new Course()
    for (let n = 0; n < 7; n++) course.add(1, n === 0, 99 * minute + 100)
    course.add(1, false, now)
    const perMinute = (at: number) =>
      (['requests_per_minute', 'failures_per_minute'] as const).map((fact) => healthValue(subject({ course }), fact, '', at))
    expect(perMinute(now)).toEqual([7, 1])
    expect(perMinute(now + minute)).toEqual([1, 0])
    expect(perMinute(now + 2 * minute)).toEqual([0, 0])
  })

  it('has each fact in at least one kind, and with a type of its own', () => {
    for (const name of healthFactNames) {
      expect(
        healthKinds.some((kind) => isOfKind(name, kind)),
        name,
      ).toBe(true)
      const { measured, whole, kinds } = healthFactOf(name)
      // exactly one way to its value
      expect([measured, whole, kinds].filter(Boolean), name).toHaveLength(1)
      expect(isOfParts(name)).toBe(measured !== undefined)
    }
  })
})

describe('a health tag', () => {
  const problems = (source: object, more: object = {}) =>
    tagProblems(
      tagDraft.parse({
        path: 'health/meters',
        type: 'uint32',
        source: { kind: 'health', name: 'Berth meters', fact: 'requests', ...source },
        ...more,
      }),
      () => undefined,
    ).map(({ path }) => path)

  it('says of what it is, and what that has', () => {
    expect(problems({})).toEqual([])
    expect(problems({ part: '12' })).toEqual([])
    expect(problems({ name: ' ' })).toEqual(['source.name'])
    expect(problems({ fact: 'clients' })).toEqual(['source.fact'])
    expect(problems({ of: 'outlet', fact: 'clients' })).toEqual([])
    expect(problems({ of: 'outlet', fact: 'clients', part: 'SCADA' })).toEqual(['source.part'])
    expect(problems({ fact: 'sentence' })).toEqual(['type'])
    expect(problems({ fact: 'sentence' }, { type: 'string' })).toEqual([])
    expect(problems({}, { access: 'readwrite' })).toEqual(['access'])
  })
})
