import { randomUUID } from 'node:crypto'
import type { CloudSample, StreamSamples, ValueParcel } from '#core/cloud/entries'
import { valueParcel } from '#core/cloud/entries'
import type { Packing } from '../../disk/keptQueue'

/** Values on their way to a platform, with when the first of them came. */
export interface KeptParcel {
  at: number
  samples: number
  parcel: ValueParcel
}

/** A parcel is never larger, whatever a message may hold: it is what is taken as a whole or sent again. */
const mostSamples = 1000
const mostCharacters = 400_000

export type StreamFacts = Pick<StreamSamples, 'key' | 'path' | 'type' | 'unit'>

/** Gathers values until they are handed over. */
export class OpenValues {
  private streams = new Map<string, StreamSamples>()
  private samples = 0
  private characters = 0
  private at = 0

  get isEmpty() {
    return this.samples === 0
  }

  get isFull() {
    return this.samples >= mostSamples || this.characters >= mostCharacters
  }

  add({ key, path, type, unit }: StreamFacts, sample: CloudSample, now: number) {
    const known = this.streams.get(key)
    if (known) known.samples.push(sample)
    else this.streams.set(key, { key, path, type, unit, samples: [sample] })
    if (this.samples === 0) this.at = now
    this.samples++
    this.characters += typeof sample[1] === 'object' || typeof sample[1] === 'string' ? JSON.stringify(sample[1]).length : 8
  }

  take(): KeptParcel {
    const { at, samples } = this
    const parcel = { id: randomUUID(), streams: [...this.streams.values()] }
    this.streams = new Map()
    this.samples = 0
    this.characters = 0
    return { at, samples, parcel }
  }
}

export const samplesIn = ({ streams }: ValueParcel) => streams.reduce((sum, { samples }) => sum + samples.length, 0)

export const valuePacking: Packing<KeptParcel> = {
  bytes: ({ at, parcel }) => new TextEncoder().encode(JSON.stringify({ at, parcel })),
  read: (bytes) => {
    try {
      const { at, parcel } = JSON.parse(new TextDecoder().decode(bytes)) as { at: unknown; parcel: unknown }
      const read = valueParcel.parse(parcel)
      return { at: Number(at), samples: samplesIn(read), parcel: read }
    } catch {
      return null
    }
  },
  facts: ({ at, samples }) => ({ at, samples }),
}
