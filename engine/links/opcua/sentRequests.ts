import { qualityName } from '#core/tags/quality'
import type { Meters } from '#core/statistics/meters'

interface Request {
  schema: { name: string }
  requestHeader: { requestHandle: number }
}
interface Response {
  responseHeader: { requestHandle: number; serviceResult: { value: number; isNotGood(): boolean } }
}

/** More under way are not measured. */
const mostUnderWay = 1000

/** Measures service calls by their handles (OPC UA part 4, 7.32). Those that ask for notifications wait as they should, and are not measured. */
export class SentRequests {
  private underWay = new Map<number, number>()

  constructor(private meters: Meters) {}

  sent({ schema, requestHeader }: Request) {
    if (schema.name === 'PublishRequest' || this.underWay.size >= mostUnderWay) return
    this.underWay.set(requestHeader.requestHandle, performance.now())
  }

  answered({ responseHeader: { requestHandle, serviceResult } }: Response) {
    const ms = this.taken(requestHandle)
    if (ms === null) return
    if (serviceResult.isNotGood()) this.meters.failed(null, `opcua.${qualityName(serviceResult.value)}`, ms)
    else this.meters.answered(null, ms)
  }

  timedOut({ requestHeader }: Request) {
    const ms = this.taken(requestHeader.requestHandle)
    if (ms !== null) this.meters.failed(null, 'opcua.silent', null, ms)
  }

  /** How long it was under way, ms; null: it is not measured. */
  private taken(handle: number): number | null {
    const begun = this.underWay.get(handle)
    this.underWay.delete(handle)
    return begun === undefined ? null : performance.now() - begun
  }
}
