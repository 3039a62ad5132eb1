import type { z } from 'zod'
import { fault, type Fault } from '#core/faults/catalogue'
import type { Method } from '#core/http/operation'
import { errorMeaning } from '#core/iolink/codes'
import { httpOf } from '#core/iolink/keeping'
import {
  deviceIdentification,
  errorAnswer,
  eventList,
  masterIdentification,
  parameterValue,
  portList,
  processDataValue,
  type DeviceIdentification,
  type EventList,
  type ProcessDataValue,
} from '#core/iolink/json'
import type { IoLinkSettings } from '#core/iolink/settings'
import type { Security } from '../../trust/security'
import type { Wire } from '../../wire/wire'
import { accessOf } from '../http/access'
import { Caller, failureOf, type Answer } from '../http/caller'

/** What came of a question to a master. */
export type Asked<T> = { ok: true; value: T; ms: number; at: number } | { ok: false; why: Fault; code: number | null; isAway: boolean }

export interface PortFound {
  port: number
  state: string
  alias: string
}

/** A master of smart sensors, as its interface has it. Answers are taken by their contract only. */
export class Master {
  private caller: Caller

  /** Throws where a secret was sealed elsewhere. */
  constructor(
    private settings: IoLinkSettings,
    security: Pick<Security, 'seal' | 'own'>,
    wire: Wire,
  ) {
    const http = httpOf(settings)
    this.caller = new Caller(http, accessOf(http, security, wire), wire)
  }

  identification = () => this.get(`/masters/${this.settings.master}/identification`, masterIdentification)

  /** What is plugged in where. A device that the master gives no name has the usual one. */
  async ports(): Promise<Asked<PortFound[]>> {
    const { master } = this.settings
    const asked = await this.get(`/masters/${master}/ports`, portList)
    if (!asked.ok) return asked
    const value = asked.value.map(({ portNumber, statusInfo, deviceAlias }) => ({
      ...{ port: portNumber, state: statusInfo, alias: deviceAlias ?? `master${master}port${portNumber}` },
    }))
    return { ...asked, value }
  }

  device = (alias: string): Promise<Asked<DeviceIdentification>> =>
    this.get(`/devices/${named(alias)}/identification`, deviceIdentification)

  processData = (alias: string): Promise<Asked<ProcessDataValue>> =>
    this.get(`/devices/${named(alias)}/processdata/value?format=byteArray`, processDataValue)

  /** What devices reported, the oldest first or last, as the master has it. */
  events = (): Promise<Asked<EventList>> => this.get('/gateway/events?origin=DEVICES', eventList)

  /** The image as a whole, as devices take it. */
  setProcessData = (alias: string, image: Uint8Array) =>
    this.send('POST', `/devices/${named(alias)}/processdata/value`, { ioLink: { valid: true, value: [...image] } })

  async parameter(alias: string, index: number, subindex: number): Promise<Asked<Uint8Array>> {
    const asked = await this.get(`${parameterAt(alias, index, subindex)}?format=byteArray`, parameterValue)
    return asked.ok ? { ...asked, value: Uint8Array.from(asked.value.value) } : asked
  }

  setParameter = (alias: string, index: number, subindex: number, bytes: Uint8Array) =>
    this.send('POST', parameterAt(alias, index, subindex), { value: [...bytes] })

  /** A connection to there, as questions have them. Rejects with a Fault. */
  connect = (signal?: AbortSignal) => this.caller.connect(signal)

  close() {
    void this.caller.retire()
  }

  private async get<T extends z.ZodType>(path: string, contract: T): Promise<Asked<z.output<T>>> {
    const asked = await this.ask('GET', path, null)
    if (!asked.ok) return asked
    const parsed = contract.safeParse(jsonOf(asked.value))
    if (parsed.success) return { ...asked, value: parsed.data }
    const [issue] = parsed.error.issues
    return this.notRead(`${issue?.path.join('.') || 'the answer'}: ${issue?.message ?? ''}`)
  }

  private async send(method: Method, path: string, body: unknown): Promise<Asked<null>> {
    const asked = await this.ask(method, path, body)
    return asked.ok ? { ...asked, value: null } : asked
  }

  private async ask(method: Method, path: string, body: unknown): Promise<Asked<Uint8Array>> {
    try {
      const text = body === null ? null : JSON.stringify(body)
      const headers: Record<string, string> = text === null ? {} : { 'content-type': 'application/json' }
      const answer = await this.caller.ask({ method, target: path, headers, body: text })
      return answer.status < 400 ? { ok: true, value: answer.body, ms: answer.ms, at: answer.at } : this.refused(answer, path)
    } catch (error) {
      return { ok: false, why: failureOf(error).why, code: null, isAway: true }
    }
  }

  private refused(answer: Answer, path: string): Asked<never> {
    const parsed = errorAnswer.safeParse(jsonOf(answer.body))
    if (!parsed.success) return { ok: false, why: this.caller.refusalOf(answer)!.why, code: null, isAway: answer.status >= 500 }
    const { code, message } = parsed.data
    const why = fault('iolink.refused', { place: path, code, ...errorMeaning(code) }, message)
    return { ok: false, why, code, isAway: false }
  }

  private notRead(problem: string): Asked<never> {
    return { ok: false, why: fault('iolink.malformed', { place: this.settings.base, problem }), code: null, isAway: false }
  }
}

const named = (alias: string) => encodeURIComponent(alias)
const parameterAt = (alias: string, index: number, subindex: number) =>
  `/devices/${named(alias)}/parameters/${index}${subindex === 0 ? '' : `/subindices/${subindex}`}/value`

const jsonOf = (body: Uint8Array): unknown => {
  try {
    return JSON.parse(Buffer.from(body).toString('utf8')) as unknown
  } catch {
    return undefined
  }
}
