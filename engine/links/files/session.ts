import { fault, type Fault } from '#core/faults/catalogue'
import type { FilesSettings } from '#core/files/settings'
import { quality } from '#core/tags/quality'
import type { LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { LinkContext, LinkSession, PointFinding, WriteOutcome } from '../driver'
import type { Receiver } from '../receiving'
import { Folder } from './folder'

const lookMs = 5000

/** A link to a folder: whether it is there is looked after, and bridges write lines into it. */
export class FilesLinkSession implements LinkSession<FilesSettings> {
  private folder: Folder
  private why: Fault | null = null
  private place: string | null = null
  private timer: NodeJS.Timeout
  private counts = { requests: 0, failures: 0 }

  constructor(private context: LinkContext<FilesSettings>) {
    this.folder = new Folder(context.settings, () => context.roots())
    this.timer = setInterval(() => void this.look(), lookMs)
    void this.look()
  }

  update(settings: FilesSettings) {
    this.folder = new Folder(settings, () => this.context.roots())
    ;[this.why, this.place] = [null, null]
    void this.look()
  }

  setPoints() {
    // a folder has none
  }

  write(): Promise<WriteOutcome> {
    return Promise.resolve({ ok: false, quality: quality.BadNotSupported, fault: fault('link.off', { name: this.context.name }) })
  }

  origin(): ValueOrigin | null {
    return null
  }

  findings(): PointFinding[] {
    return []
  }

  receiver(): Receiver {
    return this.folder
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const { why, place } = this
    const sentence = why?.what ?? (place === null ? 'Looking for the folder' : `Files in ${place}`)
    const flow = why ? 'broken' : place === null ? 'late' : 'flowing'
    return { flow, sentence, fault: why, answerMs: null, ...this.counts, connections: place === null ? 0 : 1 }
  }

  close(): Promise<void> {
    clearInterval(this.timer)
    return Promise.resolve()
  }

  private async look() {
    const { folder } = this
    this.counts.requests++
    try {
      const place = await folder.place()
      if (folder !== this.folder) return
      if (this.why) this.context.journal.note(this.context.name, 'The folder is there again.')
      ;[this.why, this.place] = [null, place]
    } catch (error) {
      if (folder === this.folder) this.miss(error as unknown as Fault)
    }
  }

  private miss(why: Fault) {
    this.counts.failures++
    if (this.why?.what !== why.what) this.context.journal.caution(this.context.name, why.what, why)
    ;[this.why, this.place] = [why, null]
  }
}
