import type { CallBook, CallSource } from '#core/calls/callBook'
import { callValue, type CallItem, type CountedCall } from '#core/calls/call'
import { exceptionMeaning } from '#core/modbus/exceptions'
import { functionName } from '#core/modbus/functions'
import type { RegisterMap } from '#core/modbus/map/registerMap'
import { decodeRequest, type Request } from '#core/modbus/pdu'
import { askedText, type Answer } from './answering'

interface Noted {
  source: CallSource
  /** As the map has it. */
  unit: number
  pdu: Buffer
  /** Null: nothing was answered. */
  answer: Answer | null
  ms: number
}

const plain = (what: string, value: string | null = null, refused = false): CallItem => ({ what, value, status: '', refused })

/** Notes one request and what it came to. @param map as it is when somebody looks */
export const noteCall = (book: CallBook, { source, unit, pdu, answer, ms }: Noted, map: () => RegisterMap) => {
  const { exception, status, code } = saidBy(answer)
  const refused = answer?.refused ?? (exception === null ? null : status)
  if (refused !== null) book.inVain(source, `${askedText(pdu)} of unit ${unit}`, status)
  const counted: CountedCall = { outcome: refused === null ? 'well' : 'refused', ms, isTold: false, code }
  if (!book.counts(source, counted)) return
  // a piece of a larger buffer would hold all of that
  const [asked, reply] = [Buffer.from(pdu), answer?.pdu ?? null]
  book.hold(source, counted, {
    ...{ service: functionName(asked[0] ?? 0), status, count: 1, bytes: 300 + asked.length + (reply?.length ?? 0) },
    tell: (most) => itemsOf(unit, asked, reply, refused, map()).slice(0, most),
  })
}

const answeredWell = { exception: null, status: 'answered', code: '' }

/** What an answer said as a whole. */
const saidBy = (answer: Answer | null): { exception: number | null; status: string; code: string } => {
  if (!answer) return { exception: null, status: 'not answered', code: 'not answered' }
  const [fc = 0, exception = 0] = answer.pdu
  if (!(fc & 0x80)) return answeredWell
  return { exception, status: `exception ${exception}, ${exceptionMeaning(exception).name}`, code: `modbus.exception ${exception}` }
}

const itemsOf = (unit: number, pdu: Buffer, reply: Buffer | null, refused: string | null, map: RegisterMap): CallItem[] => {
  const whole = `${askedText(pdu)} of unit ${unit}`
  if (refused) return [plain(whole, refused, true)]
  const request = decodeRequest(pdu)
  if (!request.ok) return [plain(whole)]
  return [plain(whole, registersIn(request.value, reply)), ...entriesOf(unit, request.value, reply, map)]
}

const entriesOf = (unit: number, request: Request, reply: Buffer | null, map: RegisterMap): CallItem[] => {
  if (request.fc <= 4) {
    const { fc, offset, count } = request as Extract<Request, { fc: 1 | 2 | 3 | 4 }>
    const told = reply && reply.length > 2 ? map.toldIn(unit, fc, offset, count, reply.subarray(2)) : []
    return told.map(({ path, value }) => plain(path, value === null ? 'a part of it' : callValue(value)))
  }
  const wanted = map.wanted(unit, request as Exclude<Request, { fc: 1 | 2 | 3 | 4 }>)
  return wanted.ok ? wanted.values.map(({ index, value }) => plain(map.entries[index]!.path, callValue(value))) : []
}

const mostRegisters = 40

/** The bare registers or bits, as they went over the wire. */
const registersIn = (request: Request, reply: Buffer | null): string | null => {
  const words =
    request.fc <= 4
      ? wordsIn(request.fc, reply)
      : 'registers' in request
        ? request.registers
        : 'coils' in request
          ? request.coils.map(Number)
          : null
  if (!words) return 'register' in request ? String(request.register) : 'on' in request ? String(Number(request.on)) : null
  const shown = words.slice(0, mostRegisters).join(' ')
  return words.length > mostRegisters ? `${shown} …` : shown
}

const wordsIn = (fc: number, reply: Buffer | null): number[] | null => {
  if (!reply || reply.length < 3) return null
  const data = reply.subarray(2)
  if (fc <= 2) return Array.from(data)
  return Array.from({ length: data.length >> 1 }, (_, i) => data.readUInt16BE(2 * i))
}
