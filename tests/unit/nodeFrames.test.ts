import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FrameWriter, frameKinds, parcelFrame, readFrame, type NodeSample } from '#core/nodes/frames'
import { quality } from '#core/tags/quality'
import type { ScalarValue } from '#core/tags/types'

const scalar: fc.Arbitrary<ScalarValue> = fc.oneof(
  fc.boolean(),
  fc.double(),
  fc.bigInt({ min: -(2n ** 63n), max: 2n ** 64n - 1n }),
  fc.string({ unit: 'grapheme' }),
)
const moment = fc.double({ min: 0, max: 4e12, noNaN: true })
const u32 = fc.integer({ min: 0, max: 2 ** 32 - 1 })
const samples = fc.array(
  fc.record({ tag: u32, quality: u32, sourceTime: moment, seenAt: moment, value: fc.oneof(scalar, fc.array(scalar)) }),
)

const read = (bytes: Uint8Array) => {
  const heard = { samples: [] as [NodeSample, number][], confirmed: [] as number[][], parcels: [] as [number, Uint8Array][] }
  readFrame(bytes, {
    sample: (sample, revision) => heard.samples.push([sample, revision]),
    confirmed: (...confirmed) => heard.confirmed.push(confirmed),
    parcel: (...parcel) => heard.parcels.push(parcel),
  })
  return heard
}

const framed = (all: readonly NodeSample[], revision = 7) => {
  const writer = new FrameWriter('samples')
  for (const sample of all) writer.sample(sample)
  return writer.take(revision)
}

describe('frames of a node', () => {
  it('bring samples as they were, whatever their values', () => {
    fc.assert(
      fc.property(samples, u32, (all, revision) => {
        expect(read(framed(all, revision)).samples).toEqual(all.map((sample) => [sample, revision]))
      }),
    )
  })

  it('have the bytes that are written down', () => {
    const bytes = framed([{ tag: 258, quality: 0, sourceTime: 1, seenAt: 2, value: 'å' }], 3)
    const text = 'c3a5'
    expect(Buffer.from(bytes).toString('hex')).toBe(
      `01${'00000003'}${'00000001'}${'00000102'}${'00000000'}${'3ff0000000000000'}${'4000000000000000'}06${'00000002'}${text}`,
    )
  })

  it('begin anew once they were taken', () => {
    const writer = new FrameWriter('confirmed')
    writer.confirmed(4, 1000)
    expect(read(writer.take(9)).confirmed).toEqual([[4, 1000, 9]])
    expect(writer.count).toBe(0)
    expect(read(writer.take(9)).confirmed).toEqual([])
  })

  it('carry parcels whole', () => {
    const [number, bytes] = read(parcelFrame(12, Uint8Array.of(1, 2, 3))).parcels[0]!
    expect([number, [...bytes]]).toEqual([12, [1, 2, 3]])
  })

  it('never bring a good value that is none', () => {
    const none = { tag: 1, quality: quality.Good, sourceTime: 0, seenAt: 0, value: undefined }
    expect(read(framed([none])).samples[0]![0]).toMatchObject({ quality: quality.BadNoData, value: undefined })
  })

  it('are refused where they are cut off, go on, or are nothing: by an error, and by nothing else', () => {
    const whole = framed([
      { tag: 1, quality: 0, sourceTime: 1, seenAt: 1, value: ['quay', 5n, 0.5] },
      { tag: 2, quality: 0, sourceTime: 1, seenAt: 1, value: true },
    ])
    for (let end = 0; end < whole.length; end++) expect(() => read(whole.subarray(0, end)), String(end)).toThrow()
    expect(() => read(Uint8Array.of(...whole, 0))).toThrow('after its end')
    expect(() => read(Uint8Array.of(99))).toThrow('99 is no kind of frame')
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        try {
          read(Uint8Array.of(frameKinds.samples, ...bytes))
        } catch (error) {
          expect(error).toBeInstanceOf(Error)
        }
      }),
    )
  })

  it('do not make room for a list that only says how long it is', () => {
    const bytes = framed([{ tag: 1, quality: 0, sourceTime: 1, seenAt: 1, value: [1] }])
    new DataView(bytes.buffer).setUint32(9 + 24 + 1, 0xffffffff)
    expect(() => read(bytes)).toThrow('longer than its frame')
  })
})
