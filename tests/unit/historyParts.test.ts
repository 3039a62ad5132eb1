import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keepingContract } from '#core/history/settings'
import { howText } from '#core/history/words'
import { readMoment, readSpan } from '#core/text/readMoment'
import { duration } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import { drawnAt, drawnPoints } from '#core/trends/drawn'
import { timeMarks } from '#core/trends/ticks'
import { CopyReader, CopyRows, wholeCopy } from '#db/history/copyRows'
import { partAt, partCalled, shelves, type MeasuredPart } from '#db/history/parts'
import { partsToDrop } from '#engine/history/keeping'
import { OpenParcel, parcelBytes, readParcel } from '#engine/history/parcel'
import { Series } from '#engine/history/series'
import { recordedValue } from '#core/history/recordedValue'
import { isSameReading } from '#engine/history/sameReading'
import { believedTime } from '#engine/history/series'

const day = 86_400_000

describe('rows for COPY', () => {
  it('come out as they went in', () => {
    const moment = fc.integer({ min: Date.UTC(1900, 0), max: Date.UTC(2200, 0) })
    const row = fc.record({
      series: fc.integer({ min: 1, max: 2 ** 31 - 1 }),
      at: moment,
      number: fc.double(),
      text: fc.option(fc.string({ unit: 'binary' }), { nil: null }),
      on: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(row, { maxLength: 200 }), fc.integer({ min: 1, max: 300 }), (all, length) => {
        const rows = new CopyRows()
        for (const { series, at, number, text, on } of all) {
          rows.row(5).int4(series).time(at).float8OrNull(number).bool(on)
          if (text === null) rows.null()
          else rows.text(text)
        }
        expect(rows.count).toBe(all.length)
        const bytes = Buffer.concat(wholeCopy([rows.take()]))
        const reader = new CopyReader()
        let pushed = 0
        for (const { series, at, number, text, on } of all) {
          // parts end anywhere
          while (!reader.next()) {
            expect(pushed).toBeLessThan(bytes.length)
            reader.push(bytes.subarray(pushed, (pushed += length)))
          }
          expect([reader.int4(), reader.time(), reader.float8(), reader.bool(), reader.textOrNull()]).toEqual([
            series,
            at,
            number,
            on,
            text,
          ])
        }
        expect(reader.next()).toBe(false)
      }),
    )
  })
})

describe('a parcel', () => {
  const filled = () => {
    const open = new OpenParcel()
    open.addSample(7, { at: Date.UTC(2026, 10, 28, 1), arrived: 5, quality: 0x80000000, number: NaN, text: 'ø' })
    open.addLate(7, 60_000, 5)
    open.addLate(7, 60_000, 5)
    open.addSeries({ id: 7, path: 'a', type: 'string', unit: '', recording: true, at: 5 })
    open.begin(3, 5)
    return open.take('its own')
  }
  it('is on disk as it was handed over', () => {
    const parcel = filled()
    expect(parcel.head).toMatchObject({
      id: 'its own',
      samples: 1,
      begins: { from: 3 },
      days: [Date.UTC(2026, 10, 28) / day],
      series: [{ path: 'a' }],
    })
    const read = readParcel(parcelBytes(parcel))!
    expect(read.head).toEqual(parcel.head)
    expect(Buffer.from(read.rows.sample).equals(Buffer.from(parcel.rows.sample))).toBe(true)
    // one mark, of two fields
    expect(read.rows.late.length).toBe(2 + 8 + 12)
  })
  it('that was cut off is none', () => {
    const bytes = parcelBytes(filled())
    fc.assert(
      fc.property(fc.integer({ min: 0, max: bytes.length - 1 }), (end) => {
        expect(readParcel(bytes.slice(0, end))).toBeNull()
      }),
    )
  })
})

describe('parts of tables', () => {
  it('are known by their names, and hold the moment that they were asked for', () => {
    fc.assert(
      fc.property(fc.constantFrom(...shelves), fc.integer({ min: Date.UTC(1970, 0), max: Date.UTC(2200, 0) }), (shelf, at) => {
        const part = partAt(shelf, at)
        expect(part.from).toBeLessThanOrEqual(at)
        expect(part.to).toBeGreaterThan(at)
        expect(partCalled(part.name)).toEqual(part)
        expect(partAt(shelf, part.to).from).toBe(part.to)
      }),
    )
    expect(partCalled('history_sample_2026_13')).toBeNull()
    expect(partCalled('history_series')).toBeNull()
  })

  const now = Date.UTC(2026, 10, 28, 12)
  const partsOf = (shelf: 'sample' | 'minute', days: number[], bytes = 1e9): MeasuredPart[] =>
    days.map((ago) => ({ ...partAt(shelf, now - ago * day), bytes, rows: 1 }))
  const keeping = (more: object) => keepingContract.parse({ sample: 10, second: 5, minute: 400, ...more })
  it('are dropped when they are too old', () => {
    const gone = partsToDrop([...partsOf('sample', [30, 12, 10, 1, 0]), ...partsOf('minute', [60])], keeping({}), now)
    expect(gone.map(({ name }) => name)).toEqual(['history_sample_2026_10_29', 'history_sample_2026_11_16'])
  })
  it('and where they are too much: the oldest single samples first, never those of today', () => {
    const parts = [...partsOf('sample', [4, 3, 2, 1, 0]), ...partsOf('minute', [60])]
    const names = (mostGb: number) => partsToDrop(parts, keeping({ mostGb }), now).map(({ name }) => name.slice('history_'.length))
    expect(names(6)).toEqual([])
    expect(names(4)).toEqual(['sample_2026_11_24', 'sample_2026_11_25'])
    expect(names(0.1)).toEqual(['sample_2026_11_24', 'sample_2026_11_25', 'sample_2026_11_26', 'sample_2026_11_27', 'minute_2026_09'])
  })
})

it('keeps of values what a number does not say', () => {
  expect(recordedValue(true)).toEqual({ number: 1, text: null })
  expect(recordedValue(2n ** 60n + 1n)).toEqual({ number: 2 ** 60, text: '1152921504606846977' })
  expect(recordedValue('Fjord\0')).toEqual({ number: NaN, text: 'Fjord⟨U+0000⟩' })
  expect(recordedValue([1n, 2n])).toEqual({ number: NaN, text: '["1","2"]' })
  expect(recordedValue('x'.repeat(20_000)).text).toHaveLength(10_002)
})

it('takes no sample for new that says nothing new', () => {
  const last = { at: 10, arrived: 10, quality: 0, number: 5, text: null }
  expect(isSameReading(last, { ...last, at: 20, number: 5.4 }, 0.5)).toBe(true)
  expect(isSameReading(last, { ...last, at: 20, number: 5.6 }, 0.5)).toBe(false)
  expect(isSameReading(last, { ...last, at: 9 }, 0)).toBe(false)
  expect(isSameReading(last, { ...last, quality: 1 }, 9)).toBe(false)
  expect(isSameReading({ ...last, number: NaN, text: 'a' }, { ...last, number: NaN, text: 'b' }, 9)).toBe(false)
})

it('believes a time that is past, and one that is ahead by an hour at most', () => {
  const [now, oldest] = [100 * day, 10 * day]
  expect(believedTime(50 * day, now, oldest)).toEqual({ at: 50 * day, isDoubtful: false })
  expect(believedTime(now + 3_600_000, now, oldest).isDoubtful).toBe(false)
  for (const odd of [0, 10 * day, now + 3_600_001, NaN]) expect(believedTime(odd, now, oldest)).toEqual({ at: now, isDoubtful: true })
})

it('keeps longer what says less, and refuses the other way round', () => {
  expect(keepingContract.safeParse({ sample: 100, minute: 50 }).error?.issues[0]?.path).toEqual(['minute'])
  expect(keepingContract.safeParse({ minute: 100, sample: 50, hour: 90 }).error?.issues[0]?.path).toEqual(['hour'])
  expect([howText({ kind: 'change', band: 0 }), howText({ kind: 'period', every: 60_000 }), howText({ kind: 'not' })]).toEqual([
    'every change',
    'every 60 s',
    'not recorded',
  ])
})

describe('spans', () => {
  it('are read as they are written', () => {
    expect(['90 s', '1 h 30 min', '2w', '1,5 d', '1 y'].map(readSpan)).toEqual([90_000, 5_400_000, 14 * day, 1.5 * day, 365 * day])
    expect(['', 'soon', '5', '3 m', '1 h x'].map(readSpan)).toEqual([null, null, null, null, null])
    for (const ms of [90_000, 3_600_000, 7_500_000, 14 * day]) expect(readSpan(duration(ms))).toBe(ms)
  })
  it('begin at moments as they are shown', () => {
    const at = new Date(2026, 10, 28, 7, 5, 9).getTime()
    expect(readMoment(momentText(at))).toBe(at)
    expect(readMoment('2026-11-28')).toBe(new Date(2026, 10, 28).getTime())
    expect(['2026-02-30', '2026-11-28 25:00', 'today'].map(readMoment)).toEqual([null, null, null])
  })
  it('are marked where people count, by so many marks at most', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: Date.UTC(2100, 0) }),
        fc.integer({ min: 1000, max: 3000 * day }),
        fc.integer({ min: 2, max: 20 }),
        (from, span, most) => {
          const marks = timeMarks(from, from + span, most)
          expect(marks.length).toBeLessThanOrEqual(most + 2)
          for (const [i, { at }] of marks.entries()) {
            expect(at).toBeGreaterThanOrEqual(from)
            expect(at).toBeLessThanOrEqual(from + span)
            if (i > 0) expect(at).toBeGreaterThan(marks[i - 1]!.at)
          }
        },
      ),
    )
    const day0 = new Date(2026, 10, 28).getTime()
    expect(timeMarks(day0, day0 + 6 * 3_600_000, 8).map(({ text }) => text)).toEqual([
      '11-28',
      '01:00',
      '02:00',
      '03:00',
      '04:00',
      '05:00',
      '06:00',
    ])
  })
})

it('draws a value as long as it held, and nothing where nothing good was', () => {
  const picture = { at: [10, 20, 30], values: [1, null, 3] }
  expect(drawnPoints(picture, true, 40)).toEqual([
    { x: 10, y: 1 },
    { x: 20, y: 1 },
    { x: 20, y: null },
    { x: 30, y: 3 },
    { x: 40, y: 3 },
  ])
  const line = drawnPoints(picture, false, 40, 5)
  expect(line.map(({ x }) => x)).toEqual([15, 25, 35, 45])
  expect([14, 15, 24, 26, 99].map((x) => drawnAt(line, x))).toEqual([null, 1, 1, null, 3])
})

describe('a series', () => {
  it('takes two samples of one time in the order in which they came, also where both come at once', () => {
    const [parcel, taken] = [new OpenParcel(), [] as number[]]
    parcel.addSample = (_, { arrived }) => void taken.push(arrived)
    const series = new Series(1, 1, null, 0, { kind: 'change', band: 0 })
    for (const number of [1, 2, 3]) series.take({ at: 5000, arrived: 1_800_000_000_000, quality: 0, number, text: null }, parcel, 0, 0)
    const asStored = taken.map((at) => Math.round(at * 1000))
    expect(new Set(asStored).size).toBe(3)
    expect(asStored).toEqual([...asStored].sort((a, b) => a - b))
  })

  it('leaves nothing out of times before it began, where others may have recorded something between', () => {
    const taken: number[] = []
    const parcel = new OpenParcel()
    parcel.addSample = (_, { at }) => void taken.push(at)
    const series = new Series(1, 1, null, 10_000, { kind: 'change', band: 0 })
    const sample = (at: number) => ({ at, arrived: 20_000, quality: 0, number: 7, text: null })
    for (const at of [5000, 6000, 11_000, 12_000]) series.take(sample(at), parcel, 0, 0)
    // what is put right is put there, whatever was last
    series.correct(sample(13_000), parcel, 0, 0)
    expect(taken).toEqual([5000, 6000, 11_000, 13_000])
  })
})
