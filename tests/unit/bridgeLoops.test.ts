import { describe, expect, it } from 'vitest'
import { loopText, loopThrough } from '#core/bridges/loops'
import { bridgeContract, type BridgeDraft } from '#core/bridges/settings'

const bridge = (name: string, when: object[], send: object[]): BridgeDraft => bridgeContract.parse({ name, when, send })
const toTag = (into: string) => ({ kind: 'tags', number: 1, fields: [{ into, from: 'run' }] })
const toTopic = (topic: string, linkId = 1) => ({ kind: 'topic', number: 1, linkId, topic, fields: [{ into: 'v', from: 'run' }] })
const onTag = (tag: string) => ({ kind: 'change', tag })
const onTopic = (filter: string, linkId = 1) => ({ kind: 'message', linkId, filter })

describe('a circle of bridges', () => {
  const a = bridge('A', [onTag('x')], [toTag('y')])
  const b = bridge('B', [onTag('y')], [toTag('z')])
  const c = bridge('C', [onTag('z')], [toTag('x')])

  it('is named by all who take part, in their order, from whichever one looks', () => {
    expect(loopThrough(a, [b, c])).toEqual(['A', 'B', 'C'])
    expect(loopThrough(b, [a, c])).toEqual(['B', 'C', 'A'])
    expect(loopText(['A', 'B'])).toBe('“A” → “B” → “A”')
  })

  it('is none where one is missing, or where a bridge only leads into one', () => {
    expect(loopThrough(a, [b])).toBeNull()
    expect(loopThrough(bridge('D', [onTag('w')], [toTag('x')]), [a, b, c])).toBeNull()
  })

  it('is the shortest way there is', () => {
    expect(loopThrough(a, [b, c, bridge('Short', [onTag('y')], [toTag('x')])])).toEqual(['A', 'Short'])
  })

  it.each([
    [[onTag('berth/*/power')], [toTag('berth/{part2}/power')], true],
    [[onTag('berth/*/power')], [toTag('mirror/{part2}/power')], false],
    [[onTag('berth/**')], [toTag('berth/1/limit')], true],
    [[onTag('berth/*')], [toTag('berth/1/limit')], false],
    [[onTag('berth/1')], [toTag('berth/{part2}x')], false],
    [[onTag('berth/1')], [toTag('{path}')], true],
    [[onTopic('quay/#')], [toTopic('quay/{part2}/told')], true],
    [[onTopic('quay/+')], [toTopic('quay/{part2}/told')], false],
    [[onTopic('quay/#')], [toTopic('quay/told', 2)], false],
    [[{ kind: 'period', every: 1000 }], [toTag('x')], false],
  ])('%j and %j: %s', (when, send, expected) => {
    expect(loopThrough(bridge('Own', when, send), []) !== null).toBe(expected)
  })
})
