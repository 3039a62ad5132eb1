import { abortMeaning, errorMeaning, errorText, rejectMeaning, resultWords } from '../../bacnet/codes'
import { objectType } from '../../bacnet/names/objectTypes'
import { propertyName } from '../../bacnet/names/properties'
import { objectIdOf } from '../../bacnet/objectId'
import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { hexText, type FrameReader } from '../reader'
import type { Told } from '../told'

/** BACnet/IP (ANSI/ASHRAE 135): the virtual link (annex J.2), the network layer (6.2), messages (20.1) and tagged data (20.2). */

const linkNames: Record<number, string> = {
  ...{ 0: 'result', 1: 'write the broadcast table', 2: 'read the broadcast table', 3: 'the broadcast table', 4: 'forwarded' },
  ...{ 5: 'register as a foreign device', 6: 'read the foreign devices', 7: 'the foreign devices', 8: 'delete a foreign device' },
  ...{ 9: 'distribute', 10: 'to one', 11: 'to all', 12: 'secured' },
}
const networkNames: Record<number, string> = {
  ...{ 0: 'who is router to', 1: 'I am router to', 2: 'I could be router to', 3: 'network rejected', 4: 'router busy to' },
  ...{ 5: 'router available to', 6: 'initialise the routing table', 7: 'routing table done', 18: 'what is the number of the network' },
  19: 'the number of the network is',
}
const kinds = ['request', 'unconfirmed', 'done', 'answer', 'receipt of a part', 'error', 'reject', 'abort']
const confirmedNames: Record<number, string> = {
  ...{ 0: 'acknowledge an alarm', 1: 'notify of a change', 2: 'notify of an event', 3: 'alarm summary', 5: 'subscribe to changes' },
  ...{ 6: 'read a file', 7: 'write a file', 8: 'add to a list', 9: 'remove from a list', 10: 'create an object', 11: 'delete an object' },
  ...{ 12: 'read a property', 14: 'read properties', 15: 'write a property', 16: 'write properties', 17: 'control communication' },
  ...{ 18: 'private transfer', 19: 'text message', 20: 'reinitialise', 26: 'read a range', 28: 'subscribe to a property' },
  29: 'event information',
}
const unconfirmedNames: Record<number, string> = {
  ...{ 0: 'I am', 1: 'I have', 2: 'notify of a change', 3: 'notify of an event', 4: 'private transfer', 5: 'text message' },
  ...{ 6: 'set the time', 7: 'who has', 8: 'who is', 9: 'set the time in UTC', 10: 'write a group' },
}
const tagNames = [
  ...['nothing', 'switch', 'unsigned', 'signed', 'real', 'double', 'octets', 'text', 'bits', 'enumerated', 'date', 'time', 'object'],
]
const text = new TextDecoder()

const objectText = (packed: number) => {
  const { type, instance } = objectIdOf(packed)
  return `${objectType(type)?.name ?? `object type ${type}`} ${instance}`
}
const numberOf = (bytes: Uint8Array) => bytes.reduce((value, byte) => value * 256 + byte, 0)
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

const valueText = (tag: number, bytes: Uint8Array): string => {
  if (tag === 2 || tag === 9) return String(numberOf(bytes))
  if (tag === 3 && bytes.length > 0 && bytes.length <= 4)
    return String((numberOf(bytes) << (32 - 8 * bytes.length)) >> (32 - 8 * bytes.length))
  if (tag === 4 && bytes.length === 4) return String(viewOf(bytes).getFloat32(0))
  if (tag === 5 && bytes.length === 8) return String(viewOf(bytes).getFloat64(0))
  if (tag === 7) return `“${text.decode(bytes.subarray(1))}”`
  if (tag === 12 && bytes.length === 4) return objectText(numberOf(bytes))
  return counted(bytes.length, 'byte')
}

/** What the tags of a message said, as far as its summary goes by them. */
interface Seen {
  objects: string[]
  properties: string[]
  values: string[]
  errors: number[]
}

interface Head {
  tag: number
  isContext: boolean
  kind: 'value' | 'opening' | 'closing'
  length: number
}

const readHead = (frame: FrameReader): Head => {
  const begun = frame.at
  const first = frame.peek(0)
  frame.pass(1)
  const byte = () => {
    const value = frame.peek(0)
    frame.pass(1)
    return value
  }
  const tag = first >> 4 === 15 ? byte() : first >> 4
  const isContext = (first & 8) !== 0
  const short = first & 7
  const kind = isContext && short === 6 ? 'opening' : isContext && short === 7 ? 'closing' : 'value'
  const length = kind !== 'value' ? 0 : short < 5 ? short : longLength(byte)
  const what = kind === 'value' ? `${isContext ? 'context' : (tagNames[tag] ?? 'tag')} ${isContext ? tag : ''}`.trim() : `${kind} ${tag}`
  if (kind !== 'value') frame.note(what, frame.at - begun, kind === 'opening' ? 'what follows belongs to it' : 'its end')
  return { tag, isContext, kind, length }
}

const longLength = (byte: () => number): number => {
  const length = byte()
  if (length < 254) return length
  const bytes = length === 254 ? 2 : 4
  let value = 0
  for (let i = 0; i < bytes; i++) value = value * 256 + byte()
  return value
}

/** Which numbers of context tags mean what, by the service: those of objects, of properties, and of errors. */
interface Meanings {
  object: readonly number[]
  property: readonly number[]
}
const readOne: Meanings = { object: [0], property: [1] }
const meanings: Record<number, Meanings> = {
  ...{ 1: { object: [1, 2], property: [0] }, 5: { object: [1], property: [] }, 28: { object: [1], property: [0] } },
  ...{ 12: readOne, 14: { object: [0], property: [0, 2] }, 15: readOne, 16: readOne, 26: readOne },
}

const tags = (frame: FrameReader, means: Meanings): Seen => {
  const seen: Seen = { objects: [], properties: [], values: [], errors: [] }
  while (frame.left > 0) {
    const head = readHead(frame)
    if (head.kind !== 'value') continue
    if (!head.isContext && head.tag === 1) {
      frame.note('switch', 1, head.length ? 'on' : 'off')
      seen.values.push(head.length ? 'on' : 'off')
      continue
    }
    if (head.isContext) contextValue(frame, head, means, seen)
    else appValue(frame, head, seen)
  }
  return seen
}

const appValue = (frame: FrameReader, { tag, length }: Head, seen: Seen) => {
  const bytes = frame.data(tagNames[tag] ?? 'value', length, (value) => valueText(tag, value))
  seen.values.push(valueText(tag, bytes))
  if (tag === 9) seen.errors.push(numberOf(bytes))
}

const contextValue = (frame: FrameReader, { tag, length }: Head, { object, property }: Meanings, seen: Seen) => {
  // objects have four bytes; the first four of a number that size would be another object type than there is
  if (length === 4 && object.includes(tag)) {
    seen.objects.push(objectText(numberOf(frame.data('object', length, (value) => objectText(numberOf(value))))))
  } else if (length <= 4 && property.includes(tag)) {
    seen.properties.push(propertyText(numberOf(frame.data('property', length, (value) => propertyText(numberOf(value))))))
  } else frame.data(`context ${tag}`, length, (value) => (value.length <= 4 ? String(numberOf(value)) : counted(value.length, 'byte')))
}

const propertyText = (number: number) => propertyName(number) ?? `property ${number}`
const mostNamed = 2
const listed = (all: readonly string[]) =>
  all.slice(0, mostNamed).join(', ') + (all.length > mostNamed ? ` and ${all.length - mostNamed} more` : '')

const aboutOf = ({ objects, properties }: Seen) =>
  [listed(objects), properties.length > 0 && objects.length < 2 ? listed(properties) : ''].filter(Boolean).join(', ')

const told = (summary: string, more: Partial<Told>): Told => ({
  ...{ summary, role: 'answer', key: null, about: '', call: '', outcome: 'fine' },
  ...more,
})

/** By the first four bits. */
const messageKinds: Record<number, (frame: FrameReader, isPart: boolean) => Told> = {
  0: (frame, isPart) => {
    frame.u8('most that is taken', (value) => hexText(value, 2))
    return confirmedOf(frame, isPart, 'request')
  },
  1: (frame) => {
    const service = frame.u8('service', (value) => unconfirmedNames[value] ?? String(value))
    const call = unconfirmedNames[service] ?? `service ${service}`
    const seen = tags(frame, service === 2 ? meanings[1]! : readOne)
    const said = service === 0 ? (seen.values[0] ?? '') : aboutOf(seen)
    return told(said ? `${call}, ${said}` : call, { role: 'notice', call, about: said })
  },
  2: (frame) => {
    const key = keyOf(frame)
    const call = callOf(frame)
    return told(`done: ${call}`, { key, call })
  },
  3: (frame, isPart) => confirmedOf(frame, isPart, 'answer'),
  4: (frame) => {
    keyOf(frame)
    frame.u8('part')
    frame.u8('parts at once')
    return told('receipt of a part', { role: 'notice' })
  },
  5: (frame) => {
    const key = keyOf(frame)
    return errorOf(frame, callOf(frame), key)
  },
  6: (frame) => brokenOff(frame, 'rejected', rejectMeaning),
  7: (frame) => brokenOff(frame, 'broken off', abortMeaning),
}

const message = (frame: FrameReader): Told => {
  const first = frame.u8('kind', (value) => kinds[value >> 4] ?? hexText(value, 2))
  const read = messageKinds[first >> 4]
  if (read) return read(frame, (first & 8) !== 0)
  frame.rest('bytes')
  return piece(`a message of kind ${first >> 4}, which there is none of`)
}

const keyOf = (frame: FrameReader) => `i${frame.u8('number of the request')}`
const callOf = (frame: FrameReader): string => {
  const service = frame.u8('service', (value) => confirmedNames[value] ?? String(value))
  return confirmedNames[service] ?? `service ${service}`
}

const brokenOff = (frame: FrameReader, what: string, meaning: typeof rejectMeaning): Told => {
  const key = keyOf(frame)
  const reason = frame.u8('reason', (value) => `${value}: ${meaning(value).words}`)
  frame.isWrong()
  return told(`${what}: ${meaning(reason).words}`, { key, outcome: 'refused' })
}

const confirmedOf = (frame: FrameReader, isPart: boolean, role: 'request' | 'answer'): Told => {
  const key = keyOf(frame)
  if (isPart) {
    frame.u8('part')
    frame.u8('parts at once')
  }
  const service = frame.peek(0)
  const call = callOf(frame)
  if (isPart) {
    frame.rest('a part of the content')
    return told(`${call}, a part of it`, { key, call, role })
  }
  const seen = tags(frame, meanings[service] ?? readOne)
  const about = aboutOf(seen)
  if (role === 'request') return told(about ? `${call}: ${about}` : call, { key, call, about, role })
  const gives = service === 12 ? listed(seen.values) || 'nothing' : counted(seen.values.length, 'value')
  return told(about ? `${about}: ${gives}` : gives, { key, call, about })
}

const errorOf = (frame: FrameReader, call: string, key: string): Told => {
  const { errors } = tags(frame, { object: [], property: [] })
  frame.isWrong()
  const error = { class: errors[0] ?? 0, code: errors[1] ?? 0 }
  return told(`${call} refused: ${errorText(error)}, ${errorMeaning(error).words}`, { key, call, outcome: 'refused' })
}

const network = (frame: FrameReader): Told => {
  frame.u8('version')
  const control = frame.u8('control', (value) => hexText(value, 2))
  const address = (what: string) => {
    frame.u16(`network ${what}`)
    const length = frame.u8(`length of the address ${what}`)
    if (length > 0) frame.data(`address ${what}`, length)
  }
  if (control & 0x20) address('it goes to')
  if (control & 0x08) address('it comes from')
  if (control & 0x20) frame.u8('routers it may pass')
  if (!(control & 0x80)) return message(frame)
  const type = frame.u8('message', (value) => networkNames[value] ?? hexText(value, 2))
  frame.rest('data')
  const isWrong = type === 3 || type === 4
  return { ...piece(networkNames[type] ?? `network message ${type}`, { outcome: isWrong ? 'refused' : 'fine' }), role: 'notice' }
}

const reading: Reading = (frame) => {
  if (frame.peek(0) !== 0x81) {
    frame.rest('bytes')
    return piece('bytes that are not BACnet/IP')
  }
  frame.u8('virtual link')
  const code = frame.u8('function', (value) => linkNames[value] ?? hexText(value, 2))
  frame.u16('length', (value) => counted(value, 'byte'))
  if (code === 0) {
    const result = frame.u16('result', (value) => resultWords(value) ?? 'done')
    const words = resultWords(result)
    return piece(words ? `refused: ${words}` : 'done', { role: 'answer', key: 'link', outcome: words ? 'refused' : 'fine' })
  }
  if (code === 4) frame.data('from', 6, (from) => `${[...from.subarray(0, 4)].join('.')}:${(from[4]! << 8) | from[5]!}`)
  if (code === 4 || code === 9 || code === 10 || code === 11) return network(frame)
  frame.rest('data')
  return piece(linkNames[code] ?? `function ${code}`, {
    role: code === 5 ? 'request' : 'notice',
    key: code === 5 ? 'link' : null,
    outcome: 'fine',
  })
}

export const bacnetDecoder = decoderOf(reading)
