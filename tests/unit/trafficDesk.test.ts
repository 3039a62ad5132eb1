import { describe, expect, it, vi } from 'vitest'
import { fileBegin } from '#core/traffic/capture/blocks'
import { TrafficDesk } from '#core/traffic/desk'
import { allFrames, wordsOf } from '#core/traffic/filter'
import { NumberList } from '#core/traffic/numberList'

/** Frames laid out: live and of files, filtered a little at a time, saved and opened again. */

const request = (n: number, unit = 11) => Uint8Array.of(n >> 8, n & 255, 0, 0, 0, 6, unit, 3, 0, n & 255, 0, 1)
const answer = (n: number, unit = 11) => Uint8Array.of(n >> 8, n & 255, 0, 0, 0, 5, unit, 3, 2, 0, 7)
const refusal = (n: number, unit = 11) => Uint8Array.of(n >> 8, n & 255, 0, 0, 0, 3, unit, 0x83, 2)
const begun = 1_795_946_064_733.118
const limits = { frames: 100_000, bytes: 10_000_000 }
const meter = { id: 1, here: '10.8.0.9:50001', peer: '10.8.0.4:502', kind: 'modbus-tcp', asks: true }

const passed = (count: number) =>
  Array.from({ length: count }, (_, n) => {
    const frame = (at: number, out: boolean, bytes: Uint8Array) => ({ at, connection: 1, out, length: bytes.length, bytes })
    return [frame(begun + 10 * n, true, request(n)), frame(begun + 10 * n + 2.5, false, n % 10 === 9 ? refusal(n) : answer(n))]
  }).flat()

const deskOf = (count: number) => {
  const desk = new TrafficDesk(limits)
  desk.connect([meter])
  desk.add(passed(count))
  return desk
}
const finish = (desk: TrafficDesk) => {
  while (desk.work(5));
  return desk.state()
}
const joined = (parts: Uint8Array[]) => new Uint8Array(Buffer.concat(parts))

describe('the desk', () => {
  it('filters a little at a time, and goes on with what comes', () => {
    const desk = deskOf(5000)
    desk.setFilter({ ...allFrames, outcome: 'refused' })
    expect(desk.work(0)).toBe(true)
    expect(desk.state().done).toBeLessThan(1)
    expect(finish(desk)).toMatchObject({ shown: 500, done: 1, first: 0, end: 10_000 })
    expect(desk.rows(1, 2).map(({ n, summary }) => [n, summary])).toEqual([
      [39, 'exception 2, ILLEGAL DATA ADDRESS'],
      [59, 'exception 2, ILLEGAL DATA ADDRESS'],
    ])
    expect([desk.placeOf(39), desk.placeOf(40)]).toEqual([1, 2])
    desk.add([{ at: begun + 1e6, connection: 1, out: false, length: 9, bytes: refusal(0) }])
    expect(finish(desk).shown).toBe(501)
    desk.setFilter({ ...allFrames, words: wordsOf('holding/12 unit') })
    // 12, and 120 to 129, twenty times each
    expect(finish(desk).shown).toBe(220)
  })

  it('looks again for who is without an answer, and shows what it had until then', () => {
    const desk = deskOf(2000)
    const late = { connection: 1, out: true, length: 12, bytes: request(3000) }
    desk.setFilter({ ...allFrames, outcome: 'trouble' })
    desk.add([{ ...late, at: begun + 30_000 }])
    expect(finish(desk).shown).toBe(200)
    // a second and more has passed by the clock of the frames
    desk.add([{ ...late, at: begun + 40_000, bytes: request(3001) }])
    finish(desk)
    const soon = vi.spyOn(performance, 'now').mockReturnValue(performance.now() + 5000)
    desk.work(0)
    expect(desk.state().shown).toBe(200)
    soon.mockRestore()
    expect(finish(desk).shown).toBe(201)
  })

  it('opens a frame with its fields, and the frame that it belongs to', () => {
    const desk = deskOf(20)
    finish(desk)
    const opened = desk.open(19)!
    expect(opened).toMatchObject({ partner: 18, answerMs: 2.5, outcome: 'refused', call: 'read holding registers' })
    expect(opened.fields.at(-1)).toMatchObject({ name: 'exception', isWrong: true })
    expect(desk.open(99)).toBeNull()
  })

  it.each(['text', 'csv', 'jsonl'] as const)('saves what is shown as %s', (form) => {
    const desk = deskOf(20)
    desk.setFilter({ ...allFrames, outcome: 'refused' })
    finish(desk)
    const lines = Buffer.from(joined(desk.save(form, 'Berth meters')))
      .toString()
      .trim()
      .split(/\r?\n/)
    const last = lines.at(-1)!
    expect(lines).toHaveLength(form === 'csv' ? 3 : 2)
    for (const part of ['2026-11-29T09:54:24.925618Z', 'exception 2', '2.5', '0013000000030b8302', '10.8.0.4:502'])
      expect(last).toContain(part)
    if (form === 'jsonl') expect(JSON.parse(last)).toMatchObject({ out: false, answerMs: 2.5, outcome: 'refused', length: 9 })
  })

  it('saves packets that it opens again as they were', () => {
    const desk = deskOf(300)
    finish(desk)
    const before = desk.rows(0, 600)
    const file = joined(desk.save('pcapng', 'Berth meters'))
    const other = new TrafficDesk(limits)
    other.openFile(file, null)
    expect(finish(other)).toMatchObject({ shown: 600, problem: null, found: { gaps: 0, others: 0, missingBytes: 0, repeatedBytes: 0 } })
    const strip = ({ at, ...row }: (typeof before)[number]) => ({ ...row, at: Math.round(at * 1000), answerMs: row.answerMs?.toFixed(2) })
    expect(other.rows(0, 600).map(strip)).toEqual(before.map(strip))
    expect(other.connections()).toEqual([meter])
  })

  it('says of a file that nothing of it can be read', () => {
    const desk = new TrafficDesk(limits)
    desk.openFile(joined(fileBegin(1, 'x', '')), null)
    expect(finish(desk)).toMatchObject({ shown: 0, problem: null })
    desk.openFile(new Uint8Array(40), null)
    expect(finish(desk).problem).toMatch(/neither/)
  })

  it('catches what is waited for, with what passed before it', () => {
    const desk = new TrafficDesk(limits)
    desk.connect([meter])
    desk.arm({ filter: { ...allFrames, outcome: 'refused' }, beforeMs: 30, afterMs: 20 })
    desk.add(passed(40))
    const { trigger, first, end } = finish(desk)
    expect(trigger).toMatchObject({ is: 'done', n: 19 })
    expect([first >= 11 && first <= 13, end]).toEqual([true, 24])
    desk.arm(null)
    desk.add(passed(1))
    expect(desk.state().end).toBe(26)
  })
})

describe('rising numbers', () => {
  it('are found by what they are, and let the lowest go', () => {
    const list = new NumberList()
    for (let n = 0; n < 5000; n++) list.push(3 * n)
    list.dropBefore(6001)
    for (let n = 5000; n < 9000; n++) list.push(3 * n)
    expect([list.length, list.slice(0, 2), list.placeOf(6006), list.placeOf(6007)]).toEqual([6999, [6003, 6006], 1, 2])
  })
})
