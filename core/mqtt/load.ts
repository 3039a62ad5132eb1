import type { LinkLoad, LoadPoint } from '../links/load'

/** Nothing is asked for: messages come when their senders send them. What is listened to are the topics. */
export const mqttLoad = (points: readonly LoadPoint[]): LinkLoad => {
  const topics = new Set(points.map(({ address }) => address)).size
  const round = { interval: 0, tags: points.length, requests: 0, carried: topics, wanted: topics, ms: null }
  return {
    parts: points.length === 0 ? [] : [{ unit: null, rounds: [round], busy: null, fastest: null }],
    busy: null,
    costly: [],
    of: 'topic',
  }
}
