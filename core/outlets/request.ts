import { dataTypes, type DataType } from '../tags/types'

/**
 * A point that no tag covers, as a client names it: `link|address|type`, and a fourth part where it
 * should be read at an interval of its own: `Berth meters|12:holding/40|float32|500`.
 */
export interface PointRequest {
  link: string
  address: string
  type: DataType
  /** Milliseconds; null: as the link has it. */
  interval: number | null
}

export type ParsedRequest = { ok: true; request: PointRequest } | { ok: false; problem: string }

const form = 'link|address|type, or link|address|type|milliseconds'
const slowest = 86_400_000
const fastest = 10

/** Addresses may hold a “|” of their own: the link ends at the first one, type and interval are counted from the end. */
export const parseRequest = (text: string): ParsedRequest => {
  const parts = text.split('|').map((part) => part.trim())
  const hasInterval = parts.length > 3 && /^\d+$/.test(parts.at(-1)!)
  const interval = hasInterval ? Number(parts.pop()) : null
  if (parts.length < 3) return wrong(`“${text}” is not of the form ${form}`)
  const [link, type] = [parts[0]!, parts.at(-1)!]
  const address = parts.slice(1, -1).join('|')
  if (link === '') return wrong('the link before the first “|” is missing')
  if (address === '') return wrong('the address is missing')
  if (!isType(type)) return wrong(`“${type}” is no type; there are ${dataTypes.slice(0, 13).join(', ')} and arrays of them`)
  if (interval !== null && (interval < fastest || interval > slowest))
    return wrong(`an interval is ${fastest} to ${slowest} ms, and this is ${interval}`)
  return { ok: true, request: { link, address, type, interval } }
}

export const requestText = ({ link, address, type, interval }: PointRequest) =>
  [link, address, type, ...(interval === null ? [] : [interval])].join('|')

const isType = (text: string): text is DataType => (dataTypes as readonly string[]).includes(text)
const wrong = (problem: string): ParsedRequest => ({ ok: false, problem })
