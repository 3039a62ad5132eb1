import * as oauth from 'oauth4webapi'
import { Agent, fetch, type RequestInit } from 'undici'
import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { HttpSettings } from '#core/http/settings'
import { steadyNow } from '#pacing/clock'
import type { OwnPair } from '../../trust/ownPair'
import type { Wire } from '../../wire/wire'
import { dialApi } from './dial'

type ByTokens = Extract<HttpSettings['signIn'], { kind: 'oauth' }>

/** A token is asked for anew so long before it ends. */
const earlyMs = 20_000
/** Where nobody says how long it lasts. */
const usualMs = 300_000
/** What gives tokens out says no more than this, bytes. */
const largestAnswer = 262_144

/** What stands behind an error: the package says that it could not read an answer, the cause says why. */
const wordsBehind = ({ cause }: Error): string => {
  if (!(cause instanceof Error)) return ''
  if (cause.name === 'ResponseExceededMaxSizeError') return `an answer larger than ${largestAnswer / 1024} kB`
  return wordsBehind(cause) || cause.message
}

/** Tokens for one client (RFC 6749, 4.4): asked for when they are needed, and kept as long as they last. */
export class TokenSource {
  private known: { token: string; until: number } | null = null
  private asking: Promise<string> | null = null

  constructor(
    private settings: HttpSettings,
    private signIn: ByTokens,
    private secret: string,
    private around: { wire: Wire; pair: OwnPair | null; proxyPassword: string | null },
  ) {}

  /** Rejects with a fault. */
  token(): Promise<string> {
    if (this.known && steadyNow() < this.known.until) return Promise.resolve(this.known.token)
    return (this.asking ??= this.ask().finally(() => (this.asking = null)))
  }

  /** Whether another one may be had: the one there was had not come just now. */
  forget(): boolean {
    const had = this.known !== null
    this.known = null
    return had
  }

  private async ask(): Promise<string> {
    const { tokenAddress, clientId, scope, how } = this.signIn
    const { patience, trust, proxy } = this.settings
    const agent = new Agent({
      maxResponseSize: largestAnswer,
      connect: (_options, done) => {
        dialApi({ base: tokenAddress, trust, proxy, patience }, this.around).then(
          ({ socket }) => done(null, socket),
          (why: Fault) => done(Object.assign(new Error(why.what), { fault: why }), null),
        )
      },
    })
    const server = { issuer: new URL(tokenAddress).origin, token_endpoint: tokenAddress }
    const client = { client_id: clientId }
    const by = how === 'header' ? oauth.ClientSecretBasic(this.secret) : oauth.ClientSecretPost(this.secret)
    try {
      const response = await oauth.clientCredentialsGrantRequest(server, client, by, scope === '' ? {} : { scope }, {
        [oauth.allowInsecureRequests]: true,
        [oauth.customFetch]: (url, init) =>
          fetch(url, {
            ...(init as RequestInit),
            dispatcher: agent,
            signal: AbortSignal.timeout(patience.answer),
          }) as unknown as Promise<Response>,
      })
      const { access_token: token, expires_in: seconds } = await oauth.processClientCredentialsResponse(server, client, response)
      this.known = { token, until: steadyNow() + Math.max(1000, (seconds === undefined ? usualMs : seconds * 1000) - earlyMs) }
      return token
    } catch (error) {
      throw this.faultOf(error as Error & { cause?: unknown })
    } finally {
      await agent.destroy().catch(() => {})
    }
  }

  private faultOf(error: Error & { cause?: unknown; error?: unknown; error_description?: unknown }): Error {
    const inner = (error.cause as { fault?: unknown } | undefined)?.fault
    if (isFault(inner)) return inner as unknown as Error
    const said = [error.error, error.error_description].filter((part) => typeof part === 'string').join(': ')
    const problem = said || error.message.replace(/\.$/, '')
    const evidence = said || wordsBehind(error)
    return fault('http.token', { place: new URL(this.signIn.tokenAddress).host, problem }, evidence) as unknown as Error
  }
}
