import { covers, matcherOf } from '../mqtt/topic'

/** What a client may do with the topics of a filter. */
export const topicRights = ['listen', 'send', 'both'] as const
export type TopicRight = (typeof topicRights)[number]

export const topicRightText: Record<TopicRight, string> = { listen: 'listen', send: 'send', both: 'listen and send' }

/** What is not in any rule may not be done. */
export interface TopicRule {
  filter: string
  may: TopicRight
}

/** Decides by all rules together: what one of them allows is allowed. Topics that begin with “$” only a rule that names them allows. */
export class TopicRules {
  private listened: string[]
  private sent: ((topic: string) => boolean)[]
  private heard: ((topic: string) => boolean)[]

  constructor(rules: readonly TopicRule[]) {
    const filters = (...may: TopicRight[]) => rules.filter((rule) => may.includes(rule.may)).map(({ filter }) => filter)
    this.listened = filters('listen', 'both')
    this.heard = this.listened.map(matcherOf)
    this.sent = filters('send', 'both').map(matcherOf)
  }

  /** Whether all topics of a filter may be listened to. */
  maySubscribe(filter: string): boolean {
    return this.listened.some((allowed) => covers(allowed, filter))
  }

  mayHear(topic: string): boolean {
    return this.heard.some((matches) => matches(topic))
  }

  maySend(topic: string): boolean {
    return this.sent.some((matches) => matches(topic))
  }
}
