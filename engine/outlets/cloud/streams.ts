import { cloudSampleOf } from '#core/cloud/sample'
import { isInAreas, streamKey } from '#core/cloud/wanted'
import { quality } from '#core/tags/quality'
import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import { earliestNow, latestNow } from '#pacing/clock'
import { believedTime } from '../../history/series'
import type { Sample, SampleRing } from '../../table/sampleRing'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import type { OpenValues, StreamFacts } from './parcel'

interface Stream {
  tag: OutletTag
  facts: StreamFacts
  /** Null: each change. */
  every: number | null
  /** Every sample since the last look; null: only the latest counts. */
  ring: SampleRing | null
  lostBefore: number
  end(): void
}

/** As many samples of one tag between two looks as are told apart. */
const mostBetween = 5000
/** A source that claims an older time is not believed. */
const oldestMs = 366 * 86_400_000

/** The tags whose values go to a platform, and every change of them, or the latest in each interval. */
export class Streams {
  private streams = new Map<Handle, Stream>()
  private tags = new Map<Handle, OutletTag>()
  /** Paths by the keys of streams. */
  private paths = new Map<string, string>()
  private dirty = new Set<Stream>()
  private due = new Map<number, { stop: NodeJS.Timeout; dirty: Set<Stream> }>()
  private settings: Pick<CloudPlatformSettings, 'model' | 'streams'>
  private stopListening: () => void
  /** Samples that gave way to others before they were looked at. */
  lost = 0

  /** @param isOfEquipment whether a tag is a property of equipment that goes there */
  constructor(
    private table: TagTable,
    settings: CloudPlatformSettings,
    private isOfEquipment: (path: string) => boolean,
    private into: OpenValues,
    /** The parcel has room for no more. */
    private full: () => void,
  ) {
    this.settings = settings
    this.stopListening = table.listen((handles) => this.heard(handles))
  }

  get count() {
    return this.streams.size
  }

  /** Others go there from now on. */
  take(settings: Pick<CloudPlatformSettings, 'model' | 'streams'>) {
    this.settings = settings
    this.decideAgain()
  }

  /** Tags or equipment are others now. */
  decideAgain() {
    for (const tag of this.tags.values()) this.place(tag)
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) {
      this.tags.delete(handle)
      this.leave(handle)
    }
    for (const tag of changed) {
      this.tags.set(tag.handle, tag)
      this.place(tag)
    }
  }

  shows(path: string): boolean {
    return this.everyOf(path) !== undefined
  }

  pathOf(key: string): string {
    return this.paths.get(key) ?? key
  }

  /** Lays what came since the last time into the parcel. */
  gather(now: number) {
    for (const stream of this.dirty) this.drain(stream, now)
    this.dirty.clear()
  }

  close() {
    this.stopListening()
    for (const handle of [...this.streams.keys()]) this.leave(handle)
    for (const { stop } of this.due.values()) clearInterval(stop)
    this.due.clear()
  }

  /** Undefined: it goes not there. */
  private everyOf(path: string): number | null | undefined {
    const { model, streams } = this.settings
    if (model.on && isInAreas(path, model.areas) && this.isOfEquipment(path)) return model.every
    return streams.find(({ folder }) => folder === '' || path.startsWith(`${folder}/`))?.every
  }

  private place(tag: OutletTag) {
    const every = this.everyOf(tag.path)
    const known = this.streams.get(tag.handle)
    if (every === undefined) return this.leave(tag.handle)
    const facts = { key: streamKey(tag.id), path: tag.path, type: tag.type, unit: tag.unit }
    this.paths.set(facts.key, tag.path)
    if (known && known.every === every && known.tag.id === tag.id && known.tag.type === tag.type) {
      known.tag = tag
      known.facts = facts
      return
    }
    this.leave(tag.handle)
    this.paths.set(facts.key, tag.path)
    this.begin(tag, facts, every)
  }

  private begin(tag: OutletTag, facts: StreamFacts, every: number | null) {
    const followed = every === null ? this.table.follow(tag.handle, mostBetween) : null
    const stream: Stream = { tag, facts, every, ring: followed?.ring ?? null, lostBefore: 0, end: () => followed?.end() }
    this.streams.set(tag.handle, stream)
    if (every !== null) {
      this.groupOf(every).add(stream)
    } else if (this.table.quality[tag.handle] === quality.BadWaitingForInitialData) stream.ring?.drain()
    else this.dirty.add(stream)
  }

  private leave(handle: Handle) {
    const stream = this.streams.get(handle)
    if (!stream) return
    this.streams.delete(handle)
    this.paths.delete(stream.facts.key)
    this.dirty.delete(stream)
    if (stream.every !== null) this.due.get(stream.every)?.dirty.delete(stream)
    stream.end()
  }

  private groupOf(every: number): Set<Stream> {
    const known = this.due.get(every)
    if (known) return known.dirty
    const dirty = new Set<Stream>()
    const stop = setInterval(() => this.takeLatest(dirty), every)
    stop.unref()
    this.due.set(every, { stop, dirty })
    return dirty
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    if (this.streams.size === 0) return
    for (const handle of handles) {
      const stream = this.streams.get(handle)
      if (!stream) continue
      if (stream.every === null) this.dirty.add(stream)
      else this.due.get(stream.every)?.dirty.add(stream)
    }
  }

  private takeLatest(dirty: Set<Stream>) {
    const now = Date.now()
    const { values, quality: codes, sourceTime } = this.table
    for (const stream of dirty) {
      const { handle } = stream.tag
      if (codes[handle] === quality.BadWaitingForInitialData) continue
      this.put(stream, { value: values[handle], quality: codes[handle]!, sourceTime: sourceTime[handle]!, seenAt: now }, now)
    }
    dirty.clear()
  }

  private drain(stream: Stream, now: number) {
    const { ring } = stream
    if (!ring) return
    for (const sample of ring.drain()) this.put(stream, sample, now)
    this.lost += ring.lost - stream.lostBefore
    stream.lostBefore = ring.lost
  }

  private put({ facts, tag }: Stream, { value, quality: code, sourceTime, seenAt }: Sample, now: number) {
    const { at } = believedTime(sourceTime || seenAt, now, earliestNow() - oldestMs, latestNow())
    this.into.add(facts, cloudSampleOf(at, value, code, tag.type), now)
    if (this.into.isFull) this.full()
  }
}
