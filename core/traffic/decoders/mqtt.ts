import { reasonOf } from '../../mqtt/reasons'
import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { hexText, type FrameReader } from '../reader'
import type { Memory, Told } from '../told'

/** MQTT 3.1.1 and 5.0: fixed header (2.1), and what each packet has (3). */

const names = [
  ...['reserved', 'CONNECT', 'CONNACK', 'PUBLISH', 'PUBACK', 'PUBREC', 'PUBREL', 'PUBCOMP'],
  ...['SUBSCRIBE', 'SUBACK', 'UNSUBSCRIBE', 'UNSUBACK', 'PINGREQ', 'PINGRESP', 'DISCONNECT', 'AUTH'],
]

/** A length in one to four bytes of seven bits each (MQTT 5.0, 1.5.5). */
const variable = (frame: FrameReader, name: string): number => {
  let [value, weight, length] = [0, 1, 0]
  for (;;) {
    const byte = frame.peek(length)
    value += (byte & 0x7f) * weight
    weight *= 128
    length++
    if (byte < 0x80 || length === 4) break
  }
  frame.at += length
  frame.note(name, length, counted(value, 'byte'))
  return value
}

/** Text with its length before it (1.5.4). */
const sized = (frame: FrameReader, name: string): string => {
  const length = (frame.peek(0) << 8) | frame.peek(1)
  frame.at += 2
  const text = frame.text(name, length)
  return text
}

const hidden = (frame: FrameReader, name: string) => {
  const length = (frame.peek(0) << 8) | frame.peek(1)
  frame.at += 2
  frame.data(name, length, () => `${counted(length, 'byte')}, not shown`)
}

const properties = (frame: FrameReader, { level }: Memory, name = 'properties') => {
  if (level !== 5 || frame.left === 0) return
  const length = variable(frame, `length of ${name}`)
  if (length > 0) frame.data(name, length)
}

const reason = (frame: FrameReader): number => {
  const code = frame.u8('reason', (value) => (value < 0x80 ? `${hexText(value, 2)}, fine` : `${hexText(value, 2)}, ${reasonText(value)}`))
  if (code >= 0x80) frame.isWrong()
  return code
}

const reasonText = (code: number) => reasonOf(code).words

type Part = (frame: FrameReader, flags: number, memory: Memory) => Omit<Told, 'call'>

const fine = (summary: string, role: Told['role'], key: string | null = null, about = ''): Omit<Told, 'call'> => ({
  summary,
  role,
  key,
  about,
  outcome: 'fine',
})

const connect: Part = (frame, _, memory) => {
  sized(frame, 'protocol')
  const level = frame.u8('level', (value) =>
    value === 5 ? 'MQTT 5.0' : value === 4 ? 'MQTT 3.1.1' : value === 3 ? 'MQTT 3.1' : String(value),
  )
  memory.level = level
  const flags = frame.u8('flags', (value) => hexText(value, 2))
  const seconds = frame.u16('keep alive', (value) => (value === 0 ? 'off' : `${value} s`))
  properties(frame, memory)
  const client = sized(frame, 'client id')
  if (flags & 0x04) {
    properties(frame, memory, 'properties of the will')
    sized(frame, 'topic of the will')
    hidden(frame, 'will')
  }
  const user = flags & 0x80 ? sized(frame, 'name') : null
  if (flags & 0x40) hidden(frame, 'password')
  const as = user === null ? 'without a name' : `as ${user}`
  return fine(`connect “${client}” ${as}, keep alive ${seconds} s`, 'request', 'connect', client)
}

const connack: Part = (frame, _, memory) => {
  frame.u8('flags', (value) => (value & 1 ? 'the session went on' : 'a new session'))
  const code = frame.u8('code', (value) => (value === 0 ? 'let in' : `${hexText(value, 2)}, ${reasonText(value)}`))
  if (code !== 0) frame.isWrong()
  properties(frame, memory)
  const said = code === 0 ? 'let in' : `not let in: ${reasonText(code)}`
  return { ...fine(said, 'answer', 'connect'), outcome: code === 0 ? 'fine' : 'refused' }
}

const publish: Part = (frame, flags, memory) => {
  const topic = sized(frame, 'topic')
  const qos = (flags >> 1) & 3
  const id = qos > 0 ? frame.u16('packet id') : null
  properties(frame, memory)
  const payload = frame.rest('payload', shown)
  const kept = flags & 1 ? ', retained' : ''
  return fine(`${topic}: ${shown(payload)}${kept}`, id === null ? 'notice' : 'request', id === null ? null : `p${id}`, topic)
}

const mostShown = 60
/** What is text is shown as it. */
const shown = (bytes: Uint8Array): string => {
  try {
    const isLong = bytes.length > mostShown
    // a letter may be cut at its end
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(0, mostShown), { stream: isLong })
    if (!/[\u0000-\u0008\u000e-\u001f]/.test(text)) return isLong ? `${text}…` : text || 'nothing'
  } catch {
    // it is no text
  }
  return counted(bytes.length, 'byte')
}

const acknowledged =
  (role: Told['role'], words: string): Part =>
  (frame, _, memory) => {
    const id = frame.u16('packet id')
    const code = frame.left > 0 && memory.level === 5 ? reason(frame) : 0
    properties(frame, memory)
    return { ...fine(code < 0x80 ? words : `refused: ${reasonText(code)}`, role, `p${id}`), outcome: code < 0x80 ? 'fine' : 'refused' }
  }

const subscribe: Part = (frame, _, memory) => {
  const id = frame.u16('packet id')
  properties(frame, memory)
  const filters: string[] = []
  while (frame.left > 0) {
    filters.push(sized(frame, 'filter'))
    frame.u8('options', (value) => `at most QoS ${value & 3}`)
  }
  return fine(`listen to ${filters.join(', ')}`, 'request', `s${id}`, filters[0] ?? '')
}

const suback: Part = (frame, _, memory) => {
  const id = frame.u16('packet id')
  properties(frame, memory)
  let refused = 0
  while (frame.left > 0) {
    const code = frame.u8('code', (value) => (value < 0x80 ? `granted, QoS ${value}` : `${hexText(value, 2)}, refused`))
    if (code < 0x80) continue
    refused++
    frame.isWrong()
  }
  return {
    ...fine(refused > 0 ? `${counted(refused, 'filter')} refused` : 'granted', 'answer', `s${id}`),
    outcome: refused > 0 ? 'refused' : 'fine',
  }
}

const unsubscribe: Part = (frame, _, memory) => {
  const id = frame.u16('packet id')
  properties(frame, memory)
  const filters: string[] = []
  while (frame.left > 0) filters.push(sized(frame, 'filter'))
  return fine(`listen no more to ${filters.join(', ')}`, 'request', `u${id}`, filters[0] ?? '')
}

const unsuback: Part = (frame, _, memory) => {
  const id = frame.u16('packet id')
  properties(frame, memory)
  while (frame.left > 0) reason(frame)
  return fine('taken out', 'answer', `u${id}`)
}

const disconnect: Part = (frame, _, memory) => {
  const code = frame.left > 0 ? reason(frame) : 0
  properties(frame, memory)
  const isBad = code >= 0x80
  return { ...fine(isBad ? `ends: ${reasonText(code)}` : 'ends', 'notice'), outcome: isBad ? 'refused' : 'fine' }
}

const parts: Record<number, Part> = {
  ...{ 1: connect, 2: connack, 3: publish, 8: subscribe, 9: suback, 10: unsubscribe, 11: unsuback, 14: disconnect },
  ...{
    4: acknowledged('answer', 'taken'),
    5: acknowledged('answer', 'taken, first half'),
    6: acknowledged('request', 'let go'),
    7: acknowledged('answer', 'done'),
  },
  12: () => fine('are you there', 'request', 'ping'),
  13: () => fine('yes', 'answer', 'ping'),
}

const read: Reading = (frame, _, memory) => {
  const first = frame.u8('type', (value) => names[value >> 4]!)
  const [type, flags] = [first >> 4, first & 15]
  const length = variable(frame, 'length')
  const back = frame.within(length)
  const part = parts[type]
  if (!part) return piece(names[type]!, { call: names[type]! })
  const told = part(frame, flags, memory)
  back()
  return { ...told, call: names[type]! }
}

export const mqttDecoder = decoderOf(read)
