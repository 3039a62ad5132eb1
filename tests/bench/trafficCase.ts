import { readCapture } from '#core/traffic/capture/blocks'
import { CaptureReader } from '#core/traffic/capture/streams'
import { CaptureWriter } from '#core/traffic/capture/written'
import { decoderFor } from '#core/traffic/decode'
import { TrafficDesk } from '#core/traffic/desk'
import { allFrames, wordsOf, type FrameFilter } from '#core/traffic/filter'
import type { FrameConnection } from '#core/traffic/frameBook'
import { times, type Section } from './report'

export const exchanges = 500_000
const meters = 8
const sliceMs = 20

/** Questions to meters and their answers, one in a thousand refused, as a capture of some hours would have them. */
export const capture = (): Uint8Array => {
  const connections = new Map<number, FrameConnection>()
  for (let id = 0; id < meters; id++)
    connections.set(id, { id, here: `10.8.0.9:${50_000 + id}`, peer: `10.8.0.${id + 10}:502`, kind: 'modbus-tcp', asks: true })
  const writer = new CaptureWriter(connections)
  const parts = writer.begin('modbus-tcp', 'bench')
  for (let n = 0; n < exchanges; n++) {
    const [connection, at] = [n % meters, 1_795_946_064_733 + n * 0.8]
    const request = Uint8Array.of((n >> 8) & 255, n & 255, 0, 0, 0, 6, 11, 3, 0, n % 200, 0, 4)
    const refused = [3, 11, 0x83, 2]
    const fine = [11, 11, 3, 8, ...[0, 1, 2, 3].flatMap((word) => [(n + word) & 255, (n >> 3) & 255])]
    const answer = Uint8Array.from([(n >> 8) & 255, n & 255, 0, 0, 0, ...(n % 1000 === 999 ? refused : fine)])
    parts.push(...writer.packets({ at, connection, out: true, length: request.length, bytes: request }))
    parts.push(...writer.packets({ at: at + 0.4, connection, out: false, length: answer.length, bytes: answer }))
  }
  return new Uint8Array(Buffer.concat(parts))
}

const taken = <T>(work: () => T): [ms: number, result: T] => {
  const began = performance.now()
  const result = work()
  return [performance.now() - began, result]
}

/** As a script would: every frame an object with all that is known of it, a filter over all of them. */
const plain = (file: Uint8Array) => {
  const reader = new CaptureReader()
  const decode = decoderFor('modbus-tcp')!
  const waiting = new Map<string, number>()
  return readCapture(file)
    .packets.flatMap((packet) => reader.take(packet))
    .map((frame) => {
      const { told, fields } = decode(frame.bytes, frame.out)
      const key = `${frame.connection} ${told.key}`
      const asked = frame.out ? undefined : waiting.get(key)
      if (frame.out) waiting.set(key, frame.at)
      return { ...frame, ...told, fields, ms: asked === undefined ? null : frame.at - asked }
    })
}

export const trafficCase = (): Promise<Section> => {
  const file = capture()
  const desk = new TrafficDesk({ frames: 2_000_000, bytes: 384 * 1024 * 1024 })
  let longest = 0
  const finish = () => {
    for (let isMore = true; isMore;) {
      const [ms, more] = taken(() => desk.work(sliceMs))
      longest = Math.max(longest, ms)
      isMore = more
    }
  }
  const filtered = (filter: Partial<FrameFilter>) =>
    taken(() => {
      desk.setFilter({ ...allFrames, ...filter })
      finish()
      return desk.state().shown
    })
  const [openMs] = taken(() => {
    desk.openFile(file, null)
    finish()
  })
  const [wordsMs, wordsShown] = filtered({ words: wordsOf('holding/105') })
  const [refusedMs, refusedShown] = filtered({ outcome: 'refused' })
  const field = { name: 'start', means: '105' }
  const [startMs, startShown] = filtered({ field })
  const [plainOpenMs, frames] = taken(() => plain(file))
  const [plainWordsMs, plainWords] = taken(() => frames.filter(({ summary }) => summary.includes('holding/105')))
  const [plainRefusedMs, plainRefused] = taken(() => frames.filter(({ outcome }) => outcome === 'refused'))
  const [plainStartMs, plainStart] = taken(() => frames.filter(({ fields }) => fields.some(({ name, means }) => name === field.name && means === field.means))) // prettier-ignore
  const found = [wordsShown, refusedShown, startShown]
  const plainFound = [plainWords.length, plainRefused.length, plainStart.length]
  if (found.join() !== plainFound.join()) throw new Error(`ours ${found.join()}, plain ${plainFound.join()}`)
  const ms = (value: number) => `${value.toFixed(0)} ms`
  const row = (what: string, ours: number, other: number, aim = '—') => ({ what, ours: ms(ours), plain: ms(other), ratio: times(other / ours), aim }) // prettier-ignore
  return Promise.resolve({
    title: 'Traffic',
    how: `A file of ${(2 * exchanges).toLocaleString('en-GB')} frames over ${meters} connections (${(file.length / 1e6).toFixed(0)} MB). Plain: each frame as an object with its fields, filtered as a list.`,
    rows: [
      row('opened, put together, decoded, matched', openMs, plainOpenMs),
      row('filtered by words', wordsMs, plainWordsMs),
      row('filtered by outcome', refusedMs, plainRefusedMs),
      row('filtered by a field', startMs, plainStartMs),
      { what: 'longest time that the worker does not answer meanwhile', ours: ms(longest), plain: ms(plainOpenMs), ratio: times(plainOpenMs / longest), aim: '—' }, // prettier-ignore
    ],
  })
}
