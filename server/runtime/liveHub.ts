import pg from 'pg'
import { configurationChannel } from '#db/configuration'
import type { LiveMessage, PageMessage, WebApi } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import { databaseUrl } from '../store/database'
import { lookForCase } from '../case/caseBook'
import { engineClient } from './engineClient'

const statusEveryMs = 1000
const lookAgainEveryMs = 10_000
const takenTimeoutMs = 5000
const mostWatched = 2000
const listenAgainMs = 1000
/** An engine that does not tell in this time is shown as away. */
const askMs = 1500

interface Page {
  send(text: string): void
  /** Whether whoever opened it may still look. */
  mayStay(): Promise<boolean>
  close(): void
  tags: number[]
  origin: number | null
  batch: number
  taken: (() => void) | null
}

/**
 * Between the pages and the engine: each page says what it shows, and gets that, at its own pace.
 * Everything a page is told, it can be told again after a drop: nothing depends on what it missed.
 */
class LiveHub {
  private pages = new Map<string, Page>()
  private timers: NodeJS.Timeout[] = []
  private listener: pg.Client | null = null
  private closed = false

  start() {
    engineClient.onConnect = () => this.watchAgain()
    engineClient.onDeliver = (...delivery) => this.deliver(...delivery)
    this.timers = [setInterval(() => void this.sendStatus(), statusEveryMs), setInterval(() => void this.showOut(), lookAgainEveryMs)]
    void this.listen()
  }

  close() {
    this.closed = true
    for (const timer of this.timers) clearInterval(timer)
    void this.listener?.end().catch(() => {})
  }

  open(id: string, peer: Pick<Page, 'send' | 'mayStay' | 'close'>) {
    this.pages.set(id, { ...peer, tags: [], origin: null, batch: 0, taken: null })
    void this.sendStatusTo(id)
  }

  /** Sessions end, and roles are taken back, while pages stay open. */
  private async showOut() {
    for (const page of [...this.pages.values()]) if (!(await page.mayStay().catch(() => true))) page.close()
  }

  left(id: string) {
    this.pages.get(id)?.taken?.()
    this.pages.delete(id)
    if (engineClient.connected) engineClient.engine.leave.asEvent(id)
  }

  hear(id: string, message: PageMessage) {
    const page = this.pages.get(id)
    if (!page) return
    if (message.say === 'watch') {
      page.tags = message.tags.slice(0, mostWatched)
      page.origin = message.origin
      this.watch(id, page)
    } else if (message.batch === page.batch) page.taken?.()
  }

  private watch(id: string, page: Page) {
    if (engineClient.connected) engineClient.engine.watch.asEvent(id, page.tags, page.origin)
  }

  private watchAgain() {
    for (const [id, page] of this.pages) this.watch(id, page)
    void this.sendStatus()
  }

  /** Resolves when the page has taken the values, so that the engine never runs ahead of it. */
  private deliver(...[viewer, values, origin]: Parameters<WebApi['deliver']>): Promise<void> {
    const page = this.pages.get(viewer)
    if (!page) {
      if (engineClient.connected) engineClient.engine.leave.asEvent(viewer)
      return Promise.resolve()
    }
    return new Promise((resolve) => {
      const done = () => {
        clearTimeout(timer)
        page.taken = null
        resolve()
      }
      const timer = setTimeout(done, takenTimeoutMs)
      page.taken = done
      page.batch++
      tell(page, { say: 'values', batch: page.batch, values, origin })
    })
  }

  private async sendStatus() {
    if (this.pages.size === 0) return
    const status = await presentStatus()
    // an engine that is only busy for a moment is not away
    if (status === null && engineClient.alive) return
    for (const page of this.pages.values()) tell(page, { say: 'status', status })
  }

  private async sendStatusTo(id: string) {
    const status = await presentStatus()
    const page = this.pages.get(id)
    if (page && (status !== null || !engineClient.alive)) tell(page, { say: 'status', status })
  }

  /** Tells pages that the configuration changed, whoever changed it. */
  private async listen() {
    if (this.closed) return
    const client = new pg.Client({ connectionString: databaseUrl(), connectionTimeoutMillis: 3000, keepAlive: true })
    const again = () => {
      if (this.listener !== client) return
      this.listener = null
      this.listenLater()
    }
    client.on('error', again)
    client.on('end', again)
    client.on('notification', ({ payload }) => void this.changed(Number(payload)))
    try {
      await client.connect()
      await client.query(`listen ${configurationChannel}`)
      this.listener = client
      await this.changed(0)
    } catch {
      await client.end().catch(() => {})
      this.listenLater()
    }
  }

  private listenLater() {
    if (!this.closed) setTimeout(() => void this.listen(), listenAgainMs).unref()
  }

  private async changed(revision: number) {
    await lookForCase().catch(() => {})
    this.tellChanged(revision)
  }

  private tellChanged(revision: number) {
    for (const page of this.pages.values()) tell(page, { say: 'changed', revision })
  }
}

const presentStatus = (): Promise<EngineStatus | null> => engineClient.call((engine) => engine.status(), askMs).catch(() => null)

const tell = (page: Page, message: LiveMessage) => page.send(JSON.stringify(message))

export const liveHub = new LiveHub()
