import {
  AttributeIds,
  type BrowseDescriptionOptions,
  type BrowseResult,
  type ClientSession,
  type DataValue,
  type ReadValueIdOptions,
  type ReferenceDescription,
  type StatusCode,
} from 'node-opcua'
import { quality } from '#core/tags/quality'

/** Services that take a list, and how long it may be. */
export type ListService = 'read' | 'browse' | 'items'

/** OPC 10000-5, 6.3.11: 0 or absent means that the server sets no limit. */
const limitNodes: Record<ListService, string> = { read: 'i=11705', browse: 'i=11710', items: 'i=11714' }
/** More than this at once is refused by many servers that set no limit. */
const usualMost = 1000
const badTooManyOperations = 0x80100000
const badNoContinuationPoints = 0x804b0000

export interface Browsed {
  references: ReferenceDescription[]
  /** Whether the server had more than was asked for. */
  more: boolean
  /** What the server said of this node. */
  status: number
}

/**
 * A session's services that take lists, within what the server takes at once: as it says, and less
 * once it has refused more (OPC 10000-4, 7.38.2, Bad_TooManyOperations).
 */
export class Services {
  private most: Record<ListService, number> = { read: usualMost, browse: usualMost, items: usualMost }

  constructor(readonly session: ClientSession) {}

  /** Asks the server for its limits; after a reconnect they may be others. */
  async askForLimits() {
    const services = Object.keys(limitNodes) as ListService[]
    const told = await this.session.read(services.map((service) => ({ nodeId: limitNodes[service], attributeId: AttributeIds.Value })))
    services.forEach((service, i) => (this.most[service] = Math.min(usualMost, Number(told[i]?.value?.value) || usualMost)))
  }

  /** Works through a list in parts; a part that is refused for its size makes all that follow smaller. */
  async inParts<T, R>(service: ListService, all: readonly T[], call: (part: readonly T[]) => Promise<readonly R[]>): Promise<R[]> {
    const results: R[] = []
    for (let at = 0; at < all.length;) {
      const part = all.slice(at, at + this.most[service])
      try {
        results.push(...(await call(part)))
        at += part.length
      } catch (error) {
        if (!isTooMany(error) || part.length <= 1) throw error
        this.most[service] = Math.max(1, part.length >> 1)
      }
    }
    return results
  }

  read(nodes: readonly ReadValueIdOptions[]): Promise<DataValue[]> {
    return this.inParts('read', nodes, (part) => this.session.read([...part]))
  }

  /**
   * All references of many nodes. A server that has no room for so many continuation points is asked for
   * those nodes once more, one by one, when the others are done.
   * @param most references of one node; what is beyond is not fetched.
   */
  async browse(nodes: readonly BrowseDescriptionOptions[], most: number): Promise<Browsed[]> {
    const results = await this.inParts('browse', nodes, async (part) => this.toTheEnd(await this.session.browse([...part]), most))
    for (const [i, result] of results.entries()) {
      if (result.status !== badNoContinuationPoints) continue
      const [again] = await this.toTheEnd(await this.session.browse([nodes[i]!]), most)
      results[i] = again!
    }
    return results
  }

  /** Fetches what is behind continuation points, and lets go of those that are not wanted. */
  private async toTheEnd(first: readonly BrowseResult[], most: number): Promise<Browsed[]> {
    const browsed = first.map(({ references, statusCode }): Browsed => ({
      references: [...(references ?? [])],
      more: false,
      status: statusCode.value,
    }))
    let open = pointsOf(first.map((result, i) => ({ result, of: browsed[i]! })))
    while (open.length > 0) {
      const wanted = open.filter(({ of }) => of.references.length < most)
      const unwanted = open.filter(({ of }) => of.references.length >= most)
      await this.letGo(unwanted)
      for (const { of } of unwanted) of.more = true
      const next = await this.inParts('browse', wanted, (part) =>
        this.session.browseNext(
          part.map(({ point }) => point),
          false,
        ),
      )
      for (const [i, { of }] of wanted.entries()) {
        of.references.push(...(next[i]!.references ?? []))
        if (next[i]!.statusCode.isNotGood()) of.status = next[i]!.statusCode.value
      }
      open = pointsOf(wanted.map(({ of }, i) => ({ result: next[i]!, of })))
    }
    return browsed
  }

  private async letGo(open: readonly { point: Buffer }[]) {
    await this.inParts('browse', open, (part) =>
      this.session.browseNext(
        part.map(({ point }) => point),
        true,
      ),
    )
  }
}

const pointsOf = (results: readonly { result: BrowseResult; of: Browsed }[]) =>
  results.filter(({ result }) => result.continuationPoint?.length > 0).map(({ result, of }) => ({ point: result.continuationPoint, of }))

/** The package tells a service fault as an error that carries the response, or only its name. */
const isTooMany = (error: unknown): boolean => statusOf(error) === badTooManyOperations

/** The status that a refused service carried; null where it was no answer at all. */
export const statusOf = (error: unknown): number | null => {
  const { response, message } = error as { response?: { responseHeader: { serviceResult: StatusCode } }; message?: string }
  if (response) return response.responseHeader.serviceResult.value
  const hex = /\(0x([0-9a-f]{8})\)/i.exec(message ?? '')?.[1]
  return hex ? Number.parseInt(hex, 16) : null
}

export const isBrowsed = ({ status }: Browsed) => status >>> 30 === quality.Good >>> 30
