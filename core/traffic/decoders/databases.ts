import { counted } from '../../text/counted'
import { decoderOf, piece, type Reading } from '../decoder'
import { hexText, type FrameReader } from '../reader'
import type { Memory, Told } from '../told'

/** Databases: messages of PostgreSQL (protocol 3.0) and packets of MySQL, several of them in one piece. */

const utf8 = new TextDecoder()
const longestStatement = 160

const short = (text: string) => {
  const line = text.replace(/\s+/g, ' ').trim()
  return line.length > longestStatement ? `${line.slice(0, longestStatement)} …` : line
}

/** A text that ends with a zero. */
const zeroText = (frame: FrameReader, name: string): string => {
  const end = frame.bytes.indexOf(0, frame.at)
  const length = (end < 0 ? frame.bytes.length : end) - frame.at
  const text = frame.text(name, Math.min(length, frame.left))
  if (frame.left > 0) frame.pass(1)
  return text
}

interface Message {
  says: string
  role: Told['role']
  isRefused?: boolean
}

const ours: Record<string, string> = {
  ...{ B: 'bind', C: 'close', D: 'describe', E: 'execute', F: 'call a function', H: 'flush', S: 'sync', X: 'end the connection' },
  ...{ c: 'copying done', d: 'copied data', f: 'copying failed' },
}
const theirs: Record<string, string> = {
  ...{ '1': 'parsed', '2': 'bound', '3': 'closed', A: 'a notification', D: 'a row', H: 'copying begins', I: 'an empty statement' },
  ...{ K: 'key to cancel', S: 'a setting', T: 'columns', V: 'result of a function', Z: 'ready', c: 'copying done', d: 'copied data' },
  ...{ n: 'no data', s: 'stopped at the limit', t: 'parameters', G: 'copying in begins' },
}
const errorFields: Record<string, string> = { S: 'severity', C: 'code', M: 'message', D: 'detail', H: 'hint', P: 'position', t: 'table' }

/** Severity, code and message (53.8). */
const errorMessage = (frame: FrameReader): string => {
  const said: Record<string, string> = {}
  while (frame.left > 1) {
    const letter = String.fromCharCode(frame.peek(0))
    frame.pass(1)
    said[letter] = zeroText(frame, errorFields[letter] ?? `field ${letter}`)
  }
  return [said.C, said.M].filter(Boolean).join(' ')
}

const signIns: Record<number, string> = { 0: 'let in', 3: 'asks for a password', 5: 'asks for a password, MD5', 10: 'asks for SCRAM', 11: 'SCRAM goes on', 12: 'SCRAM done' } // prettier-ignore

const fromServer = (frame: FrameReader, letter: string): Message => {
  switch (letter) {
    case 'E':
      return { says: `refused: ${errorMessage(frame)}`, role: 'answer', isRefused: true }
    case 'N':
      return { says: `a notice: ${errorMessage(frame)}`, role: 'notice' }
    case 'C':
      return { says: zeroText(frame, 'what was done') || 'done', role: 'answer' }
    case 'R':
      return { says: signIns[frame.u32('way in')] ?? 'asks for another way in', role: 'answer' }
    default:
      return { says: theirs[letter] ?? `message ${letter}`, role: letter === 'A' || letter === 'S' ? 'notice' : 'answer' }
  }
}

const fromUs = (frame: FrameReader, letter: string): Message => {
  switch (letter) {
    case 'Q':
      return { says: short(zeroText(frame, 'statement')) || 'an empty statement', role: 'request' }
    case 'P':
      zeroText(frame, 'name')
      return { says: short(zeroText(frame, 'statement')) || 'an empty statement', role: 'request' }
    case 'p':
      frame.rest('password or proof', (bytes) => `${counted(bytes.length, 'byte')}, not shown`)
      return { says: 'a password or proof', role: 'request' }
    default:
      return { says: ours[letter] ?? `message ${letter}`, role: letter === 'X' ? 'notice' : 'request' }
  }
}

const postgresCodes: Record<number, string> = { 80877102: 'cancel a request', 80877103: 'ask for TLS', 80877104: 'ask for encryption' }

/** The first message of a connection has no letter. */
const startUp = (frame: FrameReader): Message => {
  frame.u32('length')
  const code = frame.u32('version', (value) => (value === 196608 ? '3.0' : (postgresCodes[value] ?? hexText(value, 8))))
  const named: Record<string, string> = {}
  while (frame.left > 1) {
    const name = zeroText(frame, 'name')
    if (name === '') break
    named[name] = zeroText(frame, name)
  }
  return { says: postgresCodes[code] ?? `begin as ${named.user ?? '?'}, database ${named.database ?? named.user ?? '?'}`, role: 'request' }
}

const postgres = (frame: FrameReader, fromClient: boolean): Message[] => {
  const messages: Message[] = []
  while (frame.left > 0) {
    const letter = String.fromCharCode(frame.peek(0))
    if (frame.left < 5) break
    if (fromClient && frame.peek(0) === 0) messages.push(startUp(frame))
    else messages.push(oneOf(frame, letter, fromClient))
  }
  return messages
}

const oneOf = (frame: FrameReader, letter: string, fromClient: boolean): Message => {
  frame.u8('message', () => (fromClient ? ours : theirs)[letter] ?? letter)
  const length = frame.u32('length', (value) => counted(value, 'byte')) - 4
  const back = frame.within(Math.max(0, length))
  const wanted = Math.min(Math.max(0, length), frame.left)
  const end = frame.at + wanted
  const message = (fromClient ? fromUs : fromServer)(frame, letter)
  if (message.isRefused) frame.isWrong()
  if (frame.at < end) frame.data('content', end - frame.at)
  back()
  return message
}

const commands: Record<number, string> = {
  ...{ 1: 'end the connection', 2: 'use a database', 3: 'query', 4: 'list fields', 9: 'statistics', 14: 'ping', 17: 'change the user' },
  ...{
    22: 'prepare',
    23: 'execute',
    24: 'send long data',
    25: 'close a statement',
    26: 'reset a statement',
    28: 'fetch',
    31: 'reset the connection',
  },
}

const mysqlPacket = (frame: FrameReader, fromClient: boolean): Message => {
  const low = frame.u16le('length', (value) => counted(value, 'byte'))
  const length = low | (frame.u8('length, high') << 16)
  const number = frame.u8('number')
  const back = frame.within(length)
  const end = frame.at + Math.min(length, frame.left)
  const message = length === 0 ? { says: 'nothing', role: 'piece' as const } : fromClient ? command(frame, number) : reply(frame, number)
  if (message.isRefused) frame.isWrong()
  if (frame.at < end) frame.data('content', end - frame.at)
  back()
  return message
}

const command = (frame: FrameReader, number: number): Message => {
  if (number !== 0) {
    frame.rest('sign-in', (bytes) => `${counted(bytes.length, 'byte')}, not shown`)
    return { says: 'who we are', role: 'request' }
  }
  const code = frame.u8('command', (value) => commands[value] ?? hexText(value, 2))
  if (code !== 3 && code !== 22) return { says: commands[code] ?? `command ${code}`, role: code === 1 ? 'notice' : 'request' }
  return { says: short(utf8.decode(frame.rest('statement', (bytes) => short(utf8.decode(bytes))))), role: 'request' }
}

const reply = (frame: FrameReader, number: number): Message => {
  const first = frame.peek(0)
  if (first === 0xff) {
    frame.u8('error')
    const code = frame.u16le('code')
    const text = utf8.decode(frame.rest('message', (bytes) => utf8.decode(bytes)))
    return { says: `refused: ${code} ${text.replace(/^#(.{5})/, '$1 ')}`, role: 'answer', isRefused: true }
  }
  if (first === 10 && number === 0) {
    frame.u8('protocol')
    return { says: `greeting of version ${zeroText(frame, 'version')}`, role: 'notice' }
  }
  if (first === 0) return { says: 'done', role: 'answer' }
  return { says: first === 0xfe ? 'end of rows' : 'columns or a row', role: 'answer' }
}

const mysql = (frame: FrameReader, fromClient: boolean): Message[] => {
  const messages: Message[] = []
  while (frame.left >= 4) messages.push(mysqlPacket(frame, fromClient))
  return messages
}

const isLetter = (byte: number) => /[A-Za-z1-3]/.test(String.fromCharCode(byte))
const startBytes = 8
const longestGuessed = 65_536

/** Messages of PostgreSQL say their length after a letter, or at the very beginning; those of MySQL in their first three bytes. */
const dialectOf = (bytes: Uint8Array): NonNullable<Memory['dialect']> => {
  const number = (at: number) => (at + 4 <= bytes.length ? new DataView(bytes.buffer, bytes.byteOffset).getUint32(at) : 0)
  const isMessage = isLetter(bytes[0] ?? 0) && number(1) >= 4 && number(1) < Math.max(bytes.length, longestGuessed)
  const isStart = number(0) >= startBytes && number(0) <= bytes.length
  return isMessage || isStart ? 'postgres' : 'mysql'
}

const mostNamed = 3

const reading: Reading = (frame, fromClient, memory) => {
  if (frame.bytes.length === 1 && !fromClient) return answerToTls(frame)
  memory.dialect ??= dialectOf(frame.bytes)
  const messages = (memory.dialect === 'postgres' ? postgres : mysql)(frame, fromClient)
  if (messages.length === 0) return piece(`${counted(frame.left, 'byte')} of something longer`)
  const refused = messages.find(({ isRefused }) => isRefused)
  return {
    ...{ summary: refused?.says ?? summaryOf(messages), key: 'in turn', about: '', call: '' },
    role: messages.find(({ role }) => role === 'request' || role === 'answer')?.role ?? messages[0]!.role,
    outcome: refused ? 'refused' : 'fine',
  }
}

const answerToTls = (frame: FrameReader): Told => {
  const letter = String.fromCharCode(frame.u8('TLS', (value) => (value === 0x53 ? 'yes' : 'no')))
  return piece(letter === 'S' ? 'TLS begins' : 'no TLS here', { role: 'answer', key: 'in turn', outcome: letter === 'S' ? 'fine' : 'odd' })
}

/** Equal ones are counted: a thousand rows are one thing. */
const summaryOf = (messages: readonly Message[]): string => {
  const counts = new Map<string, number>()
  for (const { says } of messages) counts.set(says, (counts.get(says) ?? 0) + 1)
  const all = [...counts].map(([says, count]) => (count > 1 ? `${count} × ${says}` : says))
  return all.slice(0, mostNamed).join(', ') + (all.length > mostNamed ? ` and ${all.length - mostNamed} more` : '')
}

export const databaseDecoder = decoderOf(reading)
