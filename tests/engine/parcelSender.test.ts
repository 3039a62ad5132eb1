import { afterEach, describe, expect, it } from 'vitest'
import { readFrame } from '#core/nodes/frames'
import { KeptQueue } from '#engine/disk/keptQueue'
import { ParcelSender } from '#engine/farNode/parcelSender'
import { OpenParcel, parcelPacking, readParcel, type Parcel } from '#engine/history/parcel'
import { until } from '../support/until'

let sender: ParcelSender | null = null
afterEach(() => sender?.close())

const parcel = (n: number): Parcel => {
  const open = new OpenParcel()
  open.addSample(n, { at: 1000 * n, arrived: 1000 * n, quality: 0, number: n, text: null })
  return open.take(`parcel ${n}`)
}

/** A queue on a slow disk: what is asked for comes a moment later. */
class SlowQueue extends KeptQueue<Parcel> {
  override async at(index: number) {
    const found = await super.at(index)
    await new Promise((resolve) => setTimeout(resolve, 3))
    return found
  }
}

/** A site that says of each parcel at once that it is stored, in order. */
const site = (queue: KeptQueue<Parcel>, answers = () => true) => {
  const sent: string[] = []
  sender = new ParcelSender(queue, () => {})
  const to = {
    backlog: 0,
    send: (frame: Uint8Array) =>
      readFrame(frame, {
        sample: () => {},
        confirmed: () => {},
        parcel: (number, bytes) => {
          sent.push(readParcel(bytes)!.head.id)
          if (answers()) setTimeout(() => sender!.stored(number), 1)
        },
      }),
  }
  return { sent, to, sender }
}

const filled = async (count: number) => {
  const queue = new SlowQueue(null, parcelPacking, { disk: 1e9, memory: 1e9 })
  for (let n = 1; n <= count; n++) await queue.add(parcel(n))
  return queue
}
const names = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, i) => `parcel ${from + i}`)

describe('what a node recorded', () => {
  it('goes to the site once each and in order, however answers and a slow disk meet', async () => {
    const queue = await filled(40)
    const { sent, to, sender } = site(queue)
    sender.connect(to)
    await until(() => queue.count === 0)
    expect(sent).toEqual(names(1, 40))
    expect(sender.parcels).toBe(40)
  })

  it('is sent again from the first that nobody answered for, after a line that broke', async () => {
    const queue = await filled(12)
    let answers = 0
    const { sent, to, sender } = site(queue, () => ++answers <= 3)
    sender.connect(to)
    await until(() => sent.length >= 11)
    await until(() => queue.count === 9)
    sender.disconnect()
    sent.length = 0
    answers = -1000
    sender.connect(to)
    await until(() => queue.count === 0)
    expect(sent).toEqual(names(4, 12))
  })
})
