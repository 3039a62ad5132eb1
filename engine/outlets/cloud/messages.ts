import type { StreamSamples, ValueParcel } from '#core/cloud/entries'
import type { KeptQueue } from '../../disk/keptQueue'
import type { KeptParcel } from './parcel'

/** What is handed over next: whole parcels at once, or one that is too large by itself in parts, one after the other. */
export interface Message {
  /** Of the first of them. */
  id: string
  parcels: number
  samples: number
  parts: ValueParcel[][]
}

/** @param most so many values a message holds at most */
export const messageFrom = async (queue: Pick<KeptQueue<KeptParcel>, 'at'>, most: number): Promise<Message | 'nothing' | 'unreadable'> => {
  const first = await queue.at(0)
  if (first === undefined) return 'nothing'
  if (first === null) return 'unreadable'
  const { id } = first.parcel
  if (first.samples > most) return { id, parcels: 1, samples: first.samples, parts: partsOf(first.parcel, most).map((part) => [part]) }
  const whole = [first]
  let { samples } = first
  for (;;) {
    const next = await queue.at(whole.length)
    if (!next || samples + next.samples > most) break
    whole.push(next)
    samples += next.samples
  }
  return { id, parcels: whole.length, samples, parts: [whole.map(({ parcel }) => parcel)] }
}

/** A parcel cut into parts, always the same for the same size, each with an id of its own. */
export const partsOf = ({ id, streams }: ValueParcel, most: number): ValueParcel[] => {
  const parts: ValueParcel[] = []
  let open: StreamSamples[] = []
  let room = most
  const close = () => {
    parts.push({ id: `${id}/${most}/${parts.length}`, streams: open })
    open = []
    room = most
  }
  for (const stream of streams)
    for (let at = 0; at < stream.samples.length;) {
      const samples = stream.samples.slice(at, at + room)
      open.push({ ...stream, samples })
      at += samples.length
      room -= samples.length
      if (room === 0) close()
    }
  if (open.length > 0) close()
  return parts
}
