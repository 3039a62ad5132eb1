import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import type { Found } from '#core/opcua/offers'
import type { Place } from '#shared/browse'
import type { Link, LinkDraft } from '#shared/links/link'
import type { Answer, EngineApi, OwnCertificateFacts } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import type { Engine } from '../engine'
import type { LinkBrowser } from '../links/driver'
import type { LiveViews } from '../live/liveViews'
import { driverOf } from '../links/registry'
import type { Security } from '../opcua/security'
import type { WebSide } from './server'

const longestWorkMs = 300_000

/** What one web side may call. Long work that it started ends with it. */
export class EngineFunctions implements EngineApi {
  private work = new Map<string, AbortController>()

  constructor(
    private engine: Engine,
    private views: LiveViews,
    private fullStatus: () => EngineStatus,
    private web: WebSide,
    private security: Security,
  ) {}

  status = () => this.fullStatus()

  check = (id: string, draft: LinkDraft) => this.bring(id, (signal) => driverOf(draft.kind).check(draft.settings, signal, this.security))

  find = async (draft: LinkDraft): Promise<Answer<Found>> => {
    const { find } = driverOf(draft.kind)
    if (!find) return refused(fault('entry.unreadable', { problem: 'this protocol offers nothing to choose from' }))
    return find(draft.settings, this.security).then(answered<Found>, (why: Fault) => refused<Found>(why))
  }

  browse = (linkId: number, place: Place) => this.browsing(linkId, (browser) => browser.children(place))
  details = (linkId: number, places: Place[]) => this.browsing(linkId, (browser) => browser.details(places))

  search = (id: string, linkId: number, text: string) =>
    this.browsing(linkId, (browser) => this.bring(id, (signal) => browser.search(text, signal)).then(() => null))

  branch = (id: string, linkId: number, place: Place) =>
    this.browsing(linkId, (browser) => this.bring(id, (signal) => browser.branch(place, signal)).then(() => null))

  stop = (id: string) => this.work.get(id)?.abort()

  stopAll() {
    for (const work of this.work.values()) work.abort()
  }

  tryRead = (link: Link, point: PointDefinition) =>
    this.engine.link(link.id)?.tryRead(point) ?? driverOf(link.kind).tryRead(link.settings, point)
  write = (tagId: number, value: boolean | number | string) => this.engine.writeTag(tagId, value)
  origin = (tagId: number) => this.engine.origin(tagId)
  watch = (viewer: string, tagIds: number[]) => this.views.watch(viewer, tagIds)
  leave = (viewer: string) => this.views.leave(viewer)
  checkDoor = async (id: string, outletId: number, door: number): Promise<Answer<null>> => {
    const steps = this.engine.outlet(outletId)?.checkDoor(door)
    if (!steps) return refused(fault('outlet.off', {}))
    await this.bring(id, () => steps)
    return answered(null)
  }

  disconnectClient = (outletId: number, clientId: string) => this.engine.disconnectClient(outletId, clientId)

  own = (): OwnCertificateFacts => ({ facts: this.security.own.facts, pem: this.security.own.pem })

  replaceOwn = (certificate: string, key: string): Promise<Answer<OwnCertificateFacts>> => {
    const problem = this.security.own.replace({ certificate, key })
    return Promise.resolve(problem ? refused(problem) : answered(this.own()))
  }

  renewOwn = async () => {
    await this.security.own.renew()
    return this.own()
  }

  /** Sends what a generator brings, part by part, until it ends or is stopped. */
  private async bring(id: string, start: (signal: AbortSignal) => AsyncGenerator<unknown>) {
    const abort = new AbortController()
    this.work.set(id, abort)
    const limit = AbortSignal.any([abort.signal, AbortSignal.timeout(longestWorkMs)])
    try {
      for await (const part of start(limit)) {
        if (abort.signal.aborted) return
        void this.web.part.asEvent(id, part)
      }
    } finally {
      this.work.delete(id)
    }
  }

  private async browsing<T>(linkId: number, look: (browser: LinkBrowser) => Promise<T>): Promise<Answer<T>> {
    const link = this.engine.link(linkId)
    if (!link) return refused(fault('entry.gone', { thing: 'link', id: linkId }))
    const browser = link.browser()
    if ('code' in browser) return refused(browser)
    try {
      return answered(await look(browser))
    } catch (error) {
      return refused(fault('opcua.refused', { what: 'show what it has', status: '', words: 'it broke off' }, (error as Error).message))
    }
  }
}

const answered = <T>(value: T): Answer<T> => ({ ok: true, value })
const refused = <T>(why: Fault): Answer<T> => ({ ok: false, fault: why })
