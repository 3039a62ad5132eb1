import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { moment } from '#core/messages/moment'
import { pathProblem, Payload, readerFor } from '#core/messages/payload'
import { filterProblem, matcherOf, topicProblem } from '#core/mqtt/topic'
import { payloadOf } from '#core/mqtt/writing'
import type { DataType, TagValue } from '#core/tags/types'

describe('topics', () => {
  it.each(['berth/1/power', '/', 'a', 'with space', '$SYS/uptime', 'ä'.repeat(32_767)])('%.20s is a name', (topic) =>
    expect(topicProblem(topic)).toBeNull(),
  )

  it.each([
    ['', 'at least one character'],
    ['berth/+/power', 'stand for many'],
    ['berth/#', 'stand for many'],
    ['a\0b', 'no NUL'],
    ['\ud800', 'half a character'],
    ['ä'.repeat(32_768), 'this has 65,536'],
  ])('%.20j is none', (topic, why) => expect(topicProblem(topic)).toContain(why))

  // the examples of MQTT 5.0, 4.7.1 to 4.7.3
  it.each([
    [
      'sport/tennis/player1/#',
      ['sport/tennis/player1', 'sport/tennis/player1/ranking', 'sport/tennis/player1/score/wimbledon'],
      ['sport/tennis'],
    ],
    ['sport/#', ['sport', 'sport/'], ['sports']],
    ['sport/tennis/+', ['sport/tennis/player1', 'sport/tennis/'], ['sport/tennis/player1/ranking', 'sport/tennis']],
    ['sport/+', ['sport/'], ['sport']],
    ['+/+', ['/finance'], ['finance']],
    ['/+', ['/finance'], ['finance', '/a/b']],
    ['+', ['finance'], ['/finance', '$SYS']],
    ['#', ['finance', '/'], ['$SYS/monitor']],
    ['$SYS/#', ['$SYS/monitor/Clients', '$SYS'], ['SYS']],
    ['+/monitor/Clients', ['x/monitor/Clients'], ['$SYS/monitor/Clients']],
    ['ACCOUNTS', ['ACCOUNTS'], ['Accounts']],
  ])('%s matches what the standard says', (filter, matched, others) => {
    expect(filterProblem(filter)).toBeNull()
    expect(matched.filter(matcherOf(filter))).toEqual(matched)
    expect(others.filter(matcherOf(filter))).toEqual([])
  })

  it.each(['sport/tennis#', 'sport/tennis/#/ranking', 'sport+', '+a/b', ''])('%j is no filter', (filter) =>
    expect(filterProblem(filter)).not.toBeNull(),
  )

  it('without wildcards match themselves and nothing else', () => {
    const level = fc.string({ unit: fc.constantFrom(...'ab$ '), maxLength: 3 })
    const name = fc.array(level, { minLength: 1, maxLength: 4 }).map((levels) => levels.join('/'))
    fc.assert(fc.property(name, name, (one, other) => matcherOf(one)(other) === (one === other)))
  })
})

describe('values from payloads', () => {
  const read = (payload: string | Uint8Array, type: DataType, path = '', time = '') =>
    readerFor({ type, path, time })(new Payload(typeof payload === 'string' ? Buffer.from(payload) : payload))
  const valueOf = (...args: Parameters<typeof read>) => {
    const told = read(...args)
    return told.ok ? told.value : told.problem
  }

  it.each<[string, DataType, string, TagValue]>([
    ['21.5', 'float64', '', 21.5],
    [' 42\n', 'int16', '', 42],
    ['on', 'bool', '', true],
    ['nobody yet', 'string', '', 'nobody yet'],
    ['18446744073709551615', 'uint64', '', 18446744073709551615n],
    ['[1, 2]', 'int16[]', '', [1, 2]],
    ['{"power":{"kw":84.2}}', 'float64', '$.power.kw', 84.2],
    ['{"power":{"kw":"84.2"}}', 'float64', '$.power.kw', 84.2],
    ['{"lamps":[{"on":true},{"on":false}]}', 'bool', '$.lamps[1].on', false],
    ['{"lamps":[{"id":"a","h":3},{"id":"b","h":7}]}', 'uint8', "$.lamps[?@.id=='b'].h", 7],
    ['{"at":"2026-11-26T12:00:00Z"}', 'datetime', '$.at', Date.UTC(2026, 10, 26, 12)],
    ['{"who":{"name":"x"}}', 'string', '$.who', '{"name":"x"}'],
  ])('%s as %s at %j', (payload, type, path, value) => expect(valueOf(payload, type, path)).toEqual(value))

  it.each<[string | Uint8Array, DataType, string, string]>([
    ['much', 'float64', '', 'much'],
    ['300', 'uint8', '', '0 to 255'],
    ['21.5', 'int16', '', 'fraction'],
    ['{"a":1', 'int16', '$.a', 'it is no JSON'],
    ['{"a":1}', 'int16', '$.b', 'it has nothing at $.b'],
    ['{"a":[1,2]}', 'int16', '$.a[*]', '$.a[*] gives 2 values, and a tag has one'],
    ['{"a":null}', 'int16', '$.a', 'it is null there'],
    ['{"a":{}}', 'int16', '$.a', '{} is no int16'],
    ['{"a":"soon"}', 'datetime', '$.a', '"soon" is no time'],
    [Buffer.from([0xff, 0xfe]), 'float64', '', 'no text in UTF-8'],
    [Buffer.alloc(5 * 1024 * 1024, 32), 'float64', '$.a', 'at most 4,194,304'],
    [Buffer.alloc(5 * 1024 * 1024, 32), 'string', '', 'at most 4,194,304'],
  ])('%.20s is no %s at %j', (payload, type, path, why) => expect(valueOf(payload, type, path)).toContain(why))

  it('carry their time where they say so', () => {
    expect(read('{"v":1,"t":1795694400}', 'int16', '$.v', '$.t')).toEqual({ ok: true, value: 1, sourceTime: 1_795_694_400_000 })
    expect(read('{"v":1,"t":"later"}', 'int16', '$.v', '$.t')).toMatchObject({ ok: false, problem: '"later" is no time' })
    expect(read('{"v":1}', 'int16', '$.v')).toEqual({ ok: true, value: 1, sourceTime: null })
  })

  it('are found by paths that are paths', () => {
    expect(pathProblem('$.power.kw')).toBeNull()
    expect(pathProblem('')).toBeNull()
    expect(pathProblem('power.kw')).toMatch(/begins with “\$”/)
    expect(pathProblem('$.a[')).toMatch(/no JSONPath/)
  })

  it('come back from what is written', () => {
    const back = (value: TagValue, type: DataType) => valueOf(payloadOf(value, type), type)
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (value) => Object.is(back(value, 'float64'), value) || value === 0),
    )
    fc.assert(fc.property(fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }), (value) => back(value, 'int64') === value))
    expect(back([1.5, -2], 'float32[]')).toEqual([1.5, -2])
    expect(back(['a "b"', 'c'], 'string[]')).toEqual(['a "b"', 'c'])
    expect(back(true, 'bool')).toBe(true)
    expect(back(Date.UTC(2026, 10, 26), 'datetime')).toBe(Date.UTC(2026, 10, 26))
  })
})

describe('times', () => {
  const noon = Date.UTC(2026, 10, 26, 12)
  it.each([
    [noon, noon],
    [noon / 1000, noon],
    [String(noon / 1000), noon],
    [noon / 1000 + 0.25, noon + 250],
    ['2026-11-26T12:00:00Z', noon],
    ['2026-11-26T13:00:00+01:00', noon],
    ['2026-11-26 12:00:00', noon],
    ['2026-11-26T12:00:00.250', noon + 250],
    ['2026-11-26T12:00:00,250Z', noon + 250],
    ['2026-11-26', Date.UTC(2026, 10, 26)],
  ])('%j is a moment', (text, at) => expect(moment(text)).toBe(at))

  it.each(['26.11.2026', 'now', '', '2026-13-01', -1, NaN, true, null])('%j is none', (value) => expect(moment(value)).toBeNull())
})
