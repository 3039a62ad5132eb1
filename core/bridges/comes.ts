import type { DataType } from '../tags/types'
import type { Carried } from '../messages/carried'
import { inputNamed, scopeOf } from './names'
import type { Input } from './settings'

const ofGiven: Record<string, DataType> = {
  ...{ time: 'datetime', now: 'datetime', run: 'int64', quality: 'uint32', worst: 'uint32' },
  ...{ unit: 'string', value_name: 'string', path: 'string', topic: 'string', payload: 'string' },
  ...{ file: 'string', site: 'string', bridge: 'string', row: 'int32' },
}
const ofAspect = { quality: 'uint32', time: 'datetime', unit: 'string', value_name: 'string' } as const

/**
 * The type of what comes out of an expression, so that a column can be proposed for it: of a tag its own, of what is not
 * known before it comes, that of what it has now; null: nothing tells.
 */
export const comesAs = (
  from: string,
  take: readonly Input[],
  { tagType, now }: { tagType(path: string): DataType | undefined; now: Carried | undefined },
  ofTrigger?: string,
): DataType | null => {
  const name = from.trim()
  const input = inputNamed(name, scopeOf({ take, lookUps: [] }).inputs)
  if (input?.aspect) return ofAspect[input.aspect]
  const taken = input && take[input.index]!
  const known = taken?.kind === 'tag' ? tagType(taken.path) : name === 'value' && ofTrigger ? tagType(ofTrigger) : ofGiven[name]
  if (known) return known
  if (/^part\d+$/.test(name)) return 'string'
  return now === undefined ? null : typeOfValue(now)
}

const typeOfValue = (value: Carried): DataType | null => {
  if (value === null) return null
  if (typeof value === 'number') return 'float64'
  if (typeof value === 'bigint') return 'int64'
  if (typeof value === 'boolean') return 'bool'
  if (value instanceof Date) return 'datetime'
  return typeof value === 'string' || value instanceof Uint8Array ? 'string' : 'string[]'
}
