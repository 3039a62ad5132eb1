import type { PointOptions } from '#core/links/protocol'
import { requestText, type PointRequest } from '#core/outlets/request'
import { isGood, quality } from '#core/tags/quality'
import type { Link } from '#shared/links/link'
import { pointOf, pointSource } from '#shared/sources/point'
import { isFrom, settled, tagProblems } from '#shared/sources/registry'
import { tagDraft, type TagDraft } from '#shared/tags'
import type { LinkRunner } from '../links/linkRunner'
import type { Handle, TagTable } from '../table/tagTable'

/** A point of a link that is known by its number. */
export interface LinkPoint extends Omit<PointRequest, 'link'> {
  linkId: number
  options: PointOptions
}

export type Asked = { ok: true; handle: Handle; writable: boolean } | { ok: false; problem: string }

interface Requested {
  linkId: number
  path: string
  access: 'read' | 'readwrite'
}

/** Points that no tag covers, read as long as somebody asks for them. */
export class PointsOnRequest {
  private points = new Map<Handle, Requested>()

  constructor(
    private table: TagTable,
    private links: { configured(): Iterable<Link>; runner(id: number): LinkRunner | undefined },
  ) {}

  /** Starts to read the point, or tells which part of the request is wrong. */
  ask(request: PointRequest, mayWrite: boolean): Asked {
    const link = [...this.links.configured()].find(({ name }) => name === request.link)
    if (!link) return { ok: false, problem: `there is no link “${request.link}”` }
    const { address, type, interval } = request
    return this.askOf(link, { linkId: link.id, address, type, interval, options: {} }, mayWrite)
  }

  /** The same for a point whose link is known by its number. */
  askPoint(point: LinkPoint, mayWrite: boolean): Asked {
    const link = [...this.links.configured()].find(({ id }) => id === point.linkId)
    return link ? this.askOf(link, point, mayWrite) : { ok: false, problem: 'its link is not there any more' }
  }

  private askOf(link: Link, point: LinkPoint, mayWrite: boolean): Asked {
    const runner = this.links.runner(link.id)
    if (!runner) return { ok: false, problem: `the link “${link.name}” is not in force` }
    const request = { ...point, link: link.name }
    const { address, type, interval, options } = point
    const source = pointSource.parse({ kind: 'point', linkId: link.id, address, interval, options })
    const draft = tagDraft.parse({ path: 'on/request', source, type })
    for (const access of mayWrite ? (['readwrite', 'read'] as const) : (['read'] as const)) {
      const problems = tagProblems({ ...draft, access }, () => link)
      if (problems.length === 0)
        return this.start(
          runner,
          link,
          request,
          settled({ ...draft, access }, () => link),
        )
      if (access === 'read') return { ok: false, problem: `“${valueOf(problems[0]!.path, request)}”: ${problems[0]!.message}` }
    }
    return { ok: false, problem: 'it can neither be read nor written' }
  }

  /** Lets go of a point. */
  release(handle: Handle) {
    const point = this.points.get(handle)
    if (!point) return
    this.points.delete(handle)
    this.links.runner(point.linkId)?.setPoints([], [handle])
    this.table.release(handle)
  }

  /** Whether its link is still there. */
  isAlive(handle: Handle) {
    const point = this.points.get(handle)
    return point !== undefined && this.links.runner(point.linkId) !== undefined
  }

  byHandle(handle: Handle) {
    return this.points.get(handle)
  }

  get goodCount() {
    let good = 0
    for (const handle of this.points.keys()) if (isGood(this.table.quality[handle]!)) good++
    return good
  }

  private start(runner: LinkRunner, link: Link, request: PointRequest, draft: TagDraft): Asked {
    if (!isFrom('point', draft)) return { ok: false, problem: 'it is no point of a link' }
    const handle = this.table.allocate()
    const { access } = draft
    const path = requestText(request)
    this.points.set(handle, { linkId: link.id, path, access })
    runner.setPoints([{ ...pointOf(draft), handle, path, interval: draft.source.interval, scaling: null, odd: null, onRequest: true }], [])
    return { ok: true, handle, writable: access === 'readwrite' }
  }

  /** A link went: what was read through it is as good as switched off. */
  orphan(linkId: number) {
    for (const [handle, point] of this.points) if (point.linkId === linkId) this.table.degrade(handle, quality.BadOutOfService, Date.now())
  }
}

const valueOf = (field: string, request: PointRequest) =>
  field === 'type' ? request.type : field.endsWith('interval') ? String(request.interval) : request.address
