import { jsonpath } from 'json-p3'
import { jsonOf, type Carried } from './carried'
import { toRaw } from '../tags/scaling'
import { elementOf, isArrayType, type DataType, type ScalarValue, type TagValue } from '../tags/types'
import { parseJson } from './json'
import { bytesReader, type Layout } from './layout'
import { moment } from './moment'
import { atWay, nowhere, wayOf, type Way } from './singular'

/** A payload that no point may make the engine take apart: larger ones are refused, where nobody else says how large one may be. */
export const mostPayloadBytes = 4 * 1024 * 1024

export type Told = { ok: true; value: TagValue; sourceTime: number | null } | { ok: false; problem: string }

/** Takes a payload apart for one point. */
export type Reader = (payload: Payload) => Told

interface ReaderOptions {
  type: DataType
  /** JSONPath (RFC 9535) to the value; empty: the payload is the value. */
  path: string
  /** JSONPath to when it was made; empty: it does not say. */
  time: string
  /** Where it lies among the bytes; absent: the payload is text or JSON. */
  bytes?: Layout | undefined
}

type Found = { ok: true; value: unknown } | { ok: false; problem: string }
type Text = { ok: true; value: string } | { ok: false; problem: string }

/** A payload, looked into once for all points that want something of it. */
export class Payload {
  private told: Text | undefined
  private parsed: Found | undefined

  /** @param most bytes; a larger one is not looked into */
  constructor(
    readonly bytes: Uint8Array,
    private most = mostPayloadBytes,
  ) {}

  /** One whose size was judged by whoever read it. */
  static judged(bytes: Uint8Array): Payload {
    return new Payload(bytes, bytes.length)
  }

  /** One that was taken apart already, in its own form. */
  static of(bytes: Uint8Array, value: unknown): Payload {
    const payload = new Payload(bytes)
    payload.parsed = { ok: true, value }
    return payload
  }

  get text(): Text {
    return (this.told ??= textOf(this.bytes, this.most))
  }

  get json(): Found {
    return (this.parsed ??= parsed(this.text))
  }
}

const decoder = new TextDecoder('utf-8', { fatal: true })
const figure = (count: number) => count.toLocaleString('en-GB')

const textOf = (bytes: Uint8Array, most: number): Text => {
  if (bytes.length > most)
    return { ok: false, problem: `it has ${figure(bytes.length)} bytes, and at most ${figure(most)} are looked into` }
  try {
    return { ok: true, value: decoder.decode(bytes) }
  } catch {
    return { ok: false, problem: 'it is no text in UTF-8' }
  }
}

const parsed = (text: Text): Found => {
  if (!text.ok) return text
  try {
    return { ok: true, value: parseJson(text.value) }
  } catch (error) {
    return { ok: false, problem: `it is no JSON: ${(error as Error).message}` }
  }
}

/** What is wrong with a path into a payload; null: nothing. */
export const pathProblem = (path: string): string | null => {
  if (path === '') return null
  try {
    jsonpath.compile(path)
    return null
  } catch (error) {
    return `This is no JSONPath: ${(error as Error).message}. A path begins with “$”, as in $.power.kw (RFC 9535).`
  }
}

/** Builds the function that takes a value out of payloads. Paths must have been found right. */
export const readerFor = ({ type, path, time, bytes }: ReaderOptions): Reader => {
  if (bytes) return bytesTold(type, bytes)
  const valueAt = path === '' ? wholeOf(type) : memberOf(path)
  const timeAt = time === '' ? null : memberOf(time)
  return (payload) => {
    const found = valueAt(payload)
    if (!found.ok) return found
    const value = asType(found.value, type)
    if (!value.ok) return value
    const sourceTime = timeAt === null ? null : timeOf(timeAt(payload))
    return sourceTime !== null && typeof sourceTime !== 'number' ? sourceTime : { ok: true, value: value.value, sourceTime }
  }
}

const bytesTold = (type: DataType, layout: Layout): Reader => {
  const read = bytesReader(type, layout)
  return (payload) => {
    const found = read(payload.bytes)
    return found.ok ? { ...found, sourceTime: null } : found
  }
}

/** The payload itself: text for what is text, and what JSON makes of it for arrays. */
const wholeOf =
  (type: DataType) =>
  (payload: Payload): Found => {
    if (isArrayType(type)) return payload.json
    const { text } = payload
    return text.ok && type !== 'string' ? { ok: true, value: text.value.trim() } : text
  }

const memberOf = (path: string): ((payload: Payload) => Found) => {
  const way = wayOf(path)
  return way ? placeAt(path, way) : searched(path)
}

/** Most paths lead to one place, and are walked. */
const placeAt =
  (path: string, way: Way) =>
  ({ json }: Payload): Found => {
    if (!json.ok) return json
    const value = atWay(json.value, way)
    return value === nowhere ? { ok: false, problem: `it has nothing at ${path}` } : { ok: true, value }
  }

const searched = (path: string) => {
  const query = jsonpath.compile(path)
  return (payload: Payload): Found => {
    const { json } = payload
    if (!json.ok) return json
    const nodes = query.query(json.value as never)
    if (nodes.length === 1) return { ok: true, value: nodes.nodes[0]!.value }
    return {
      ok: false,
      problem: nodes.length === 0 ? `it has nothing at ${path}` : `${path} gives ${nodes.length} values, and a tag has one`,
    }
  }
}

/** A value of JSON in the type of a tag, or why it is none. */
const asType = (value: unknown, type: DataType): { ok: true; value: TagValue } | { ok: false; problem: string } => {
  if (isArrayType(type)) {
    if (!Array.isArray(value)) return { ok: false, problem: `${shown(value)} is no list` }
    const elements: ScalarValue[] = []
    for (const element of value) {
      const one = asScalar(element, elementOf(type))
      if (!one.ok) return one
      elements.push(one.value as ScalarValue)
    }
    return { ok: true, value: elements }
  }
  return asScalar(value, type)
}

const asScalar = (value: unknown, type: DataType): { ok: true; value: TagValue } | { ok: false; problem: string } => {
  if (value === null || value === undefined) return { ok: false, problem: 'it is null there' }
  if (type === 'string') return { ok: true, value: typeof value === 'string' ? value : jsonOf(value as Carried) }
  if (typeof value === 'object') return { ok: false, problem: `${shown(value)} is no ${type}` }
  if (type === 'datetime') return asTime(value)
  const raw = toRaw(value as ScalarValue, type, null)
  return raw.ok ? { ok: true, value: raw.raw } : { ok: false, problem: raw.detail }
}

const asTime = (value: unknown): { ok: true; value: number } | { ok: false; problem: string } => {
  const time = moment(value)
  return time === null ? { ok: false, problem: `${shown(value)} is no time` } : { ok: true, value: time }
}

const timeOf = (found: Found): number | { ok: false; problem: string } => {
  if (!found.ok) return found
  const time = asTime(found.value)
  return time.ok ? time.value : time
}

const mostShown = 60
const shown = (value: unknown): string => {
  const text = JSON.stringify(value, (_, part: unknown) => (typeof part === 'bigint' ? Number(part) : part)) ?? String(value)
  return text.length > mostShown ? `${text.slice(0, mostShown)}…` : text
}
