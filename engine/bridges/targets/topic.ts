import { fault, isFault } from '#core/faults/catalogue'
import { jsonOf, textOf, type Carried } from '#core/messages/carried'
import { payloadOf } from '#core/bridges/payload'
import type { MessageDestination } from '#core/bridges/settings'
import type { MessageSender, Verdict } from '../../links/receiving'
import { topicPlace } from '../laps'
import { anything, thrown, type Handed, type Surroundings, type Target } from './target'

/** A topic of a link or of an outlet as a destination: each record is a message. */
export class TopicTarget implements Target {
  constructor(
    private around: Surroundings,
    private destination: MessageDestination,
    private bridge: number,
  ) {}

  async deliver({ fields, records }: Handed): Promise<Verdict[]> {
    const { qos, retain } = this.destination
    this.noteLaps(records.map(({ to }) => to[0] ?? ''))
    return this.sender().send(records.map(({ to, values }) => ({ topic: to[0] ?? '', payload: this.payload(fields, values), qos, retain })))
  }

  private noteLaps(topics: readonly string[]) {
    const { destination, bridge, around } = this
    if (destination.kind === 'topic') for (const topic of new Set(topics)) around.laps.writes(bridge, topicPlace(destination.linkId, topic))
  }

  types() {
    return Promise.resolve(this.destination.fields.map(() => anything))
  }

  preview({ fields, records }: Handed): Promise<string[]> {
    return Promise.resolve(records.map(({ to, values }) => `${to[0] ?? ''}  ${this.payload(fields, values)}`))
  }

  private payload(fields: readonly string[], values: readonly Carried[]): string {
    return this.destination.form === 'plain' ? textOf(values[0] ?? null) : jsonOf(payloadOf(fields, values))
  }

  private sender(): MessageSender {
    const { thing, id } = placeOf(this.destination)
    const place = thing === 'link' ? this.around.link(id) : this.around.outlet(id)
    if (!place) throw thrown(fault('entry.gone', { thing, id }))
    const receiver = place.receiver()
    if (isFault(receiver)) throw thrown(receiver)
    if (receiver.takes !== 'topic') throw thrown(fault('bridge.no-receiver', { link: place.name, what: 'messages' }))
    return receiver
  }
}

const placeOf = (destination: MessageDestination) =>
  destination.kind === 'topic' ? { thing: 'link' as const, id: destination.linkId } : { thing: 'outlet' as const, id: destination.outletId }
