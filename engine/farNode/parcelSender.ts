import { parcelFrame } from '#core/nodes/frames'
import type { KeptQueue } from '../disk/keptQueue'
import type { ParcelCarrier } from '../history/history'
import { parcelBytes, type Parcel } from '../history/parcel'
import type { Outgoing } from './upstream'

/** So many parcels are on their way at once; the site takes no more. */
const mostOnTheWay = 8
/** What goes live goes before what is recorded. */
const mostBacklog = 1024 * 1024
const lookEveryMs = 250

/** Brings what was recorded to the site, the oldest first. Each stays on the disk here until the site says that it is where it belongs. */
export class ParcelSender implements ParcelCarrier {
  private to: Outgoing | null = null
  private onTheWay: number[] = []
  /** Parcels that are where they belong, and stand in the queue until their turn to leave it comes. */
  private leaving = 0
  private next = 1
  private timer: NodeJS.Timeout
  private busy: Promise<void> | null = null
  private closed = false
  parcels = 0

  constructor(
    private queue: KeptQueue<Parcel>,
    private lost: (why: string) => void,
  ) {
    this.timer = setInterval(() => this.wake(), lookEveryMs)
  }

  get problem() {
    return this.to ? null : 'the site is not connected'
  }

  get waiting() {
    return this.queue.samples
  }

  get waitingSince() {
    return this.queue.oldestAt
  }

  connect(to: Outgoing) {
    this.to = to
    this.onTheWay = []
    this.wake()
  }

  disconnect() {
    this.to = null
    this.onTheWay = []
  }

  /** The site has it where it belongs, or says that it cannot be. */
  stored(number: number) {
    if (this.onTheWay[0] !== number) return
    this.onTheWay.shift()
    this.leaving++
    void this.inTurn(async () => {
      await this.queue.done()
      this.leaving--
      this.parcels++
    }).then(() => this.wake())
  }

  wake() {
    if (!this.closed && !this.busy) void this.inTurn(() => this.send())
  }

  keepAgain() {}

  async close() {
    this.closed = true
    clearInterval(this.timer)
    this.to = null
    await this.busy
  }

  /** One thing after the other: what is done leaves the queue that is looked into. */
  private inTurn(work: () => Promise<void>): Promise<void> {
    const before = this.busy ?? Promise.resolve()
    const mine = before.then(work).catch(() => {})
    this.busy = mine
    void mine.then(() => {
      if (this.busy === mine) this.busy = null
    })
    return mine
  }

  /** Where the next one to be sent stands in the queue. */
  private get place() {
    return this.leaving + this.onTheWay.length
  }

  private async send() {
    while (this.to && this.onTheWay.length < mostOnTheWay && this.to.backlog < mostBacklog) {
      const { to } = this
      const parcel = await this.queue.at(this.place)
      if (parcel === undefined || this.to !== to) return
      if (parcel === null) {
        this.lost('A part of what was recorded could not be read from disk, and is lost.')
        await this.queue.drop(this.place)
        continue
      }
      const number = this.next++
      this.onTheWay.push(number)
      to.send(parcelFrame(number, parcelBytes(parcel)))
    }
  }
}
