import type { Table } from '#core/modbus/address'
import { exception } from '#core/modbus/exceptions'
import { identifies, identify } from '#core/modbus/identification'
import type { Denied } from '#core/modbus/map/registerMap'
import { rangeText } from '#core/modbus/map/ways'
import { decodeRequest, encodeException, encodeReply, type Request } from '#core/modbus/pdu'
import { toRawScalar } from '#core/tags/scaling'
import { isArrayType, type TagValue } from '#core/tags/types'
import type { Writer } from '#shared/writes'
import { inParallel } from '#pacing/inParallel'
import type { OutletContext, OutletTag } from '../driver'
import type { Machine } from './machines'
import type { MappedTags } from './mapped'

const mostUnderWay = 50
/** Of what this outlet offers, not of the program. */
const revision = '1.0'

/** Who asks. */
export interface Asking {
  machine: Machine
  /** Address and port. */
  from: string
}

/** The PDU of a reply, and why it is an exception where it is one. */
export interface Answer {
  pdu: Buffer
  refused: string | null
}

interface Around {
  mapped: MappedTags
  write: OutletContext<unknown>['write']
  /** The name of the outlet. */
  outlet: string
  /** The name of the site. */
  site(): string
}

const known = new Set([1, 2, 3, 4, 5, 6, 15, 16, 22, 23])
const tableOf: Record<number, Table> = { 1: 'coil', 2: 'discrete', 3: 'holding', 4: 'input', 5: 'coil', 6: 'holding', 15: 'coil', 16: 'holding', 22: 'holding', 23: 'holding' } // prettier-ignore

/** What a request asks for, in a few words: `reads holding/40 to 159`. */
export const askedText = (pdu: Buffer): string => {
  const request = decodeRequest(pdu)
  if (!request.ok) return pdu[0] === identifies ? 'asks who this is' : `function ${pdu[0] ?? '(none)'}`
  const { value } = request
  const verb = value.fc <= 4 ? 'reads' : value.fc === 23 ? 'writes and reads' : 'writes'
  return `${verb} ${rangeText(tableOf[value.fc]!, value.offset, countOf(value))}`
}

const countOf = (request: Request): number => {
  if ('count' in request) return request.count
  return 'coils' in request ? request.coils.length : 'registers' in request ? request.registers.length : 1
}

/** Answers requests from the map; what is to be written goes to the tags, and the answer waits for what comes of it. */
export class Answering {
  constructor(private around: Around) {}

  /** A promise only where something is written. */
  answer(unit: number, pdu: Buffer, asking: Asking): Answer | Promise<Answer> {
    const fc = pdu[0] ?? 0
    if (fc === identifies) return this.identify(pdu)
    const request = decodeRequest(pdu)
    if (!request.ok) {
      const code = known.has(fc) ? exception.illegalDataValue : exception.illegalFunction
      return refusal(fc, { ok: false, exception: code, problem: `asked what cannot be answered: ${request.problem}` })
    }
    const { value } = request
    return isRead(value) ? this.read(unit, value, asking) : this.write(unit, value, asking)
  }

  /** Who this is, for whoever asks. */
  private identify(pdu: Buffer): Answer {
    const { outlet, site } = this.around
    const identity = { vendor: 'Keen Conduit', productCode: 'Modbus outlet', revision, product: outlet, application: site() }
    const said = identify(pdu, identity)
    return said.ok ? { pdu: said.pdu, refused: null } : refusal(identifies, said)
  }

  /** @param as the function of the reply, where what was read came with a write */
  private read(unit: number, { fc, offset, count }: ReadRequest, { machine }: Asking, as: number = fc): Answer {
    const { registers } = this.around.mapped
    const may = machine.rules.everywhere
    const denied = may === null || may === 'nothing' ? this.hiddenIn(unit, fc, offset, count, machine) : null
    const reply = denied ?? registers.read(unit, fc, offset, count)
    if (!Buffer.isBuffer(reply)) return refusal(as, reply)
    reply[0] = as
    return { pdu: reply, refused: null }
  }

  /** Whether some of it may not be read by this machine. */
  private hiddenIn(unit: number, fc: number, offset: number, count: number, { rules, name }: Machine): Denied | null {
    const { registers } = this.around.mapped
    for (const index of registers.entriesIn(unit, tableOf[fc]!, offset, count)) {
      const { path } = registers.entries[index]!
      if (rules.at(path) === 'nothing')
        return { ok: false, exception: exception.illegalDataAddress, problem: `asked for ${path}, which machines (${name}) may not read` }
    }
    return null
  }

  private async write(unit: number, request: Exclude<Request, { fc: 1 | 2 | 3 | 4 }>, asking: Asking): Promise<Answer> {
    const { mapped } = this.around
    const wanted = mapped.registers.wanted(unit, request)
    if (!wanted.ok) return refusal(request.fc, wanted)
    const fitting = wanted.values.map(({ index, value }) => this.fitted(index, value, asking))
    const misfit = fitting.find((one) => !one.ok)
    if (misfit && !misfit.ok) return refusal(request.fc, misfit)
    const by: Writer = {
      who: `${asking.machine.name}, from ${asking.from}`.slice(0, 200),
      via: 'client',
      place: this.around.outlet.slice(0, 200),
    }
    const outcomes = await inParallel(fitting, mostUnderWay, (one) => this.writeOne(one as Fitted, by))
    const failed = outcomes.find((why) => why !== null)
    if (failed) return refusal(request.fc, failed)
    return request.fc === 23
      ? this.read(unit, { fc: 3, offset: request.offset, count: request.count }, asking, 23)
      : { pdu: encodeReply(echoOf(request)), refused: null }
  }

  private fitted(index: number, value: TagValue, { machine }: Asking): Fitted | Denied {
    const { mapped } = this.around
    const { path, at } = mapped.registers.entries[index]!
    const tag = mapped.tagAt(index)
    if (!tag) return deny(exception.deviceFailure, `wanted to write ${at}: there is no tag ${path}`)
    if (machine.rules.at(path) !== 'write') return deny(exception.illegalDataAddress, `wanted to write ${path}, and may only read it`)
    if (!tag.writable) return deny(exception.illegalDataAddress, `wanted to write ${path}, which may only be read`)
    if (isArrayType(tag.type)) return deny(exception.illegalDataValue, `wanted to write ${path}, which is an array`)
    const raw = toRawScalar(value, tag.type, null)
    return raw.ok ? { ok: true, tag, value: raw.raw } : deny(exception.illegalDataValue, `wanted to write ${path}: ${raw.detail}`)
  }

  /** Null: it was written. */
  private async writeOne({ tag, value }: Fitted, by: Writer): Promise<Denied | null> {
    const outcome = await this.around.write(tag.handle, value, by).catch((error: Error) => error)
    if (outcome instanceof Error) return deny(exception.deviceFailure, `wanted to write ${tag.path}: ${outcome.message}`)
    if (outcome.ok) return null
    return deny(codeOf[outcome.fault.code] ?? exception.deviceFailure, `wanted to write ${tag.path}: ${outcome.fault.what}`)
  }
}

interface Fitted {
  ok: true
  tag: OutletTag
  value: TagValue
}

/** Other faults are failures of the server device. */
const codeOf: Record<string, number> = {
  'write.not-writable': exception.illegalDataAddress,
  'write.value': exception.illegalDataValue,
}

const deny = (code: number, problem: string): Denied => ({ ok: false, exception: code, problem })

const refusal = (fc: number, { exception: code, problem }: Denied): Answer => ({
  pdu: encodeException(fc, code),
  refused: `${problem} (exception ${code})`,
})

type ReadRequest = Extract<Request, { fc: 1 | 2 | 3 | 4 }>
const isRead = (request: Request): request is ReadRequest => request.fc <= 4

type Echoed = Exclude<Request, { fc: 1 | 2 | 3 | 4 } | { fc: 23 }>

const echoOf = (request: Echoed) => {
  if (request.fc === 15) return { fc: 15 as const, offset: request.offset, count: request.coils.length }
  if (request.fc === 16) return { fc: 16 as const, offset: request.offset, count: request.registers.length }
  return request
}
