import { fault, type Fault } from '#core/faults/catalogue'
import { topicProblem } from '#core/mqtt/topic'
import { inParallel } from '#pacing/inParallel'
import type { MessageSender, OutMessage, Verdict } from '../receiving'
import type { Broker } from './broker'

/** So many messages are under way at once; they leave in their order, and a broker hands them on in it (MQTT 4.6). */
const mostUnderWay = 200

/** Messages of bridges on their way to a broker. */
export class MessagesTo implements MessageSender {
  readonly takes = 'topic'

  constructor(private broker: Broker) {}

  send(messages: readonly OutMessage[]): Promise<Verdict[]> {
    return inParallel(messages, mostUnderWay, (message) => this.one(message))
  }

  private async one({ topic, payload, qos, retain }: OutMessage): Promise<Verdict> {
    const problem = topicProblem(topic)
    if (problem) return fault('mqtt.not-sent', { topic, problem })
    try {
      await this.broker.send(topic, payload, { qos, retain })
      return null
    } catch (why) {
      // a refusal has a reason of the broker; everything else is a connection that broke, or an answer that did not come
      if (!(why instanceof Error)) return why as Fault
      throw this.broker.broke(why) as unknown as Error
    }
  }
}
