import type { ServerResponse } from 'node:http'
import { fault } from '#core/faults/catalogue'
import type { Handle } from '../../table/tagTable'
import type { Asked, Answered } from './asked'
import type { HttpGuest } from './guests'
import { problem } from './reply'
import type { TagShelf } from './tagShelf'

const beatMs = 15_000
/** So much text goes out at once; the rest comes as soon as that is taken. */
const mostAtOnce = 64 * 1024

/** One who follows changes (server-sent events, WHATWG HTML 9.2). */
interface Stream {
  program: string
  guest: HttpGuest
  response: ServerResponse
  follows(path: string): boolean
  /** What changed and was not told yet; of each tag only what it has last. */
  due: Set<Handle>
  isPlanned: boolean
  isFull: boolean
  /** How many tags it follows, among those that were there then. */
  counted: { version: number; count: number } | null
}

/** Changes of tags as events: at first what each has, then what changes. A slow one gets what is then, and misses what was between. */
export class Changes {
  private streams = new Set<Stream>()
  private beat: NodeJS.Timeout
  told = 0

  constructor(
    private shelf: TagShelf,
    private most: () => number,
  ) {
    this.beat = setInterval(() => this.streams.forEach(({ response }) => response.write(': still here\n\n')), beatMs)
  }

  get count() {
    return this.streams.size
  }

  /** How many tags a program follows, by all of its streams. */
  followedBy(program: string): number {
    let total = 0
    for (const stream of this.streams) if (stream.program === program) total += this.countOf(stream)
    return total
  }

  private countOf(stream: Stream): number {
    if (stream.counted?.version !== this.shelf.version) {
      let count = 0
      for (const { path } of this.shelf.in('')) if (stream.follows(path)) count++
      stream.counted = { version: this.shelf.version, count }
    }
    return stream.counted.count
  }

  has(program: string): boolean {
    for (const stream of this.streams) if (stream.program === program) return true
    return false
  }

  open({ guest, query, response, program }: Asked): Answered {
    if (this.streams.size >= this.most()) return problem(fault('serve.busy', { most: this.most() }), { headers: { 'retry-after': '10' } })
    const paths = new Set(query.getAll('path'))
    const folders = query.getAll('folder').map((folder) => folder.replace(/^\/+|\/+$/g, ''))
    const isAll = paths.size === 0 && folders.length === 0
    const isWanted = (path: string) => isAll || paths.has(path) || folders.some((folder) => folder === '' || path.startsWith(`${folder}/`))
    const follows = (path: string) => isWanted(path) && guest.rules.at(path) !== 'nothing'
    const stream: Stream = { program, guest, response, follows, due: new Set(), isPlanned: false, isFull: false, counted: null }
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
    response.write('retry: 3000\n\n')
    this.streams.add(stream)
    response.on('close', () => this.streams.delete(stream))
    response.on('drain', () => {
      stream.isFull = false
      this.plan(stream)
    })
    for (const tag of this.shelf.in('')) if (follows(tag.path)) stream.due.add(tag.handle)
    this.plan(stream)
    return null
  }

  /** These changed; never throws, and never waits. */
  announce(handles: readonly Handle[]) {
    for (const stream of this.streams) {
      for (const handle of handles) {
        const tag = this.shelf.of(handle)
        if (tag && stream.follows(tag.path)) stream.due.add(handle)
      }
      this.plan(stream)
    }
  }

  /** Who is no guest any more is followed no longer. */
  endOthers(isStill: (guest: HttpGuest) => boolean) {
    for (const { guest, response } of this.streams) if (!isStill(guest)) response.end()
  }

  end(program: string) {
    for (const stream of this.streams) if (stream.program === program) stream.response.end()
  }

  close() {
    clearInterval(this.beat)
    for (const { response } of this.streams) response.end()
    this.streams.clear()
  }

  private plan(stream: Stream) {
    if (stream.isPlanned || stream.isFull || stream.due.size === 0) return
    stream.isPlanned = true
    setImmediate(() => {
      stream.isPlanned = false
      this.flush(stream)
    })
  }

  private flush(stream: Stream) {
    if (!this.streams.has(stream)) return
    let text = ''
    for (const handle of stream.due) {
      stream.due.delete(handle)
      const tag = this.shelf.of(handle)
      if (!tag) continue
      text += `data: ${this.shelf.text(tag)}\n\n`
      this.told++
      if (text.length > mostAtOnce) break
    }
    if (text === '') return
    stream.isFull = !stream.response.write(text)
    this.plan(stream)
  }
}
