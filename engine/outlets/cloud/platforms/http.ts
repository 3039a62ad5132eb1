import { promisify } from 'node:util'
import { gzip as gzipWith } from 'node:zlib'
import { z } from 'zod'
import { platformModel, stepResult, takenValues } from '#core/cloud/entries'
import { fault } from '#core/faults/catalogue'
import { httpSettings } from '#core/http/settings'
import type { HttpWay } from '#shared/outlets/cloudPlatform'
import { accessOf } from '../../../links/http/access'
import { Caller, type CallFailure, failureOf, type Answer } from '../../../links/http/caller'
import { PlatformFailure, type Platform, type PlatformContext } from '../platform'

const gzip = promisify(gzipWith)
const stepResults = z.object({ results: z.array(stepResult) })
/** Dates of answers have whole seconds, and are as old as the way back. */
const clockNoise = 2000

/** A platform that takes JSON over HTTP, packed with gzip (RFC 9110, 8.4.1.3), by a token. */
export const httpPlatform = (way: HttpWay, context: PlatformContext): Platform => new HttpPlatform(way, context)

class HttpPlatform implements Platform {
  clockAhead: number | null = null
  private caller: Caller
  private place: string

  constructor(
    private way: HttpWay,
    { site, security, wire }: PlatformContext,
  ) {
    const settings = httpSettings.parse({ ...way, largest: 16, atOnce: 2 })
    this.caller = new Caller(settings, accessOf(settings, security, wire), wire)
    this.place = `/sites/${encodeURIComponent(site)}`
  }

  async model(signal: AbortSignal) {
    return this.ask(platformModel, '/model', null, signal)
  }

  async apply(steps: readonly unknown[], signal: AbortSignal) {
    return (await this.ask(stepResults, '/model', { steps }, signal)).results
  }

  async send(parcels: readonly unknown[], signal: AbortSignal) {
    return this.ask(takenValues, '/values', { parcels }, signal)
  }

  close() {
    return this.caller.close()
  }

  private async ask<T>(contract: z.ZodType<T>, target: string, body: object | null, signal: AbortSignal): Promise<T> {
    const request = {
      method: body ? ('POST' as const) : ('GET' as const),
      target: this.place + target,
      headers: { accept: 'application/json', ...(body ? { 'content-type': 'application/json', 'content-encoding': 'gzip' } : {}) },
      body: body && (await gzip(JSON.stringify(body))),
    }
    const answer = await this.caller.ask(request, { signal }).catch((error: unknown) => {
      throw this.failed(failureOf(error))
    })
    this.noteClock(answer)
    const refusal = this.caller.refusalOf(answer)
    if (refusal) throw this.failed(refusal, answer)
    return this.read(contract, answer)
  }

  private failed({ status, after, why }: CallFailure, answer?: Answer): PlatformFailure {
    const { base: place } = this.way
    const words = answer ? reasonIn(answer) : ''
    if (status === 401 || status === 403) return new PlatformFailure(fault('cloud.token', { place, status, words }, why.evidence))
    if (status === 413) return new PlatformFailure(fault('cloud.too-large', { place }, why.evidence), { isTooLarge: true })
    if (status === 429) return new PlatformFailure(fault('cloud.throttled', { place }, why.evidence), { after })
    return new PlatformFailure(why, { after })
  }

  private read<T>(contract: z.ZodType<T>, { body }: Answer): T {
    const { base: place } = this.way
    try {
      return contract.parse(JSON.parse(new TextDecoder().decode(body)))
    } catch (error) {
      const problem =
        error instanceof z.ZodError ? error.issues[0]!.path.join('.') + ': ' + error.issues[0]!.message : (error as Error).message
      throw new PlatformFailure(fault('cloud.answer', { place, problem }))
    }
  }

  private noteClock({ headers, at, ms }: Answer) {
    const told = typeof headers.date === 'string' ? Date.parse(headers.date) : NaN
    if (Number.isNaN(told)) return
    const ahead = told - (at - ms / 2)
    this.clockAhead = Math.abs(ahead) < clockNoise ? 0 : Math.round(ahead)
  }
}

/** What it says about why, where it says it as most do (RFC 9457). */
const reasonIn = ({ body }: Answer): string => {
  try {
    const { detail, title } = JSON.parse(new TextDecoder().decode(body.subarray(0, 4000))) as Record<string, unknown>
    return [detail, title].find((one): one is string => typeof one === 'string')?.slice(0, 200) ?? ''
  } catch {
    return ''
  }
}
