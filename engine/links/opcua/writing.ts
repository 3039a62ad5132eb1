import { AttributeIds, DataType as UaType, Variant, VariantArrayType, WriteRequest, WriteValue, type StatusCode } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { follow, keyOf, type MemberStep } from '#core/opcua/member'
import { quality, statusWords } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import { elementOf, isArrayValue, type DataType, type TagValue } from '#core/tags/types'
import { steadyNow } from '#pacing/clock'
import { typeFromUa, variantOf } from '../../opcua/variants'
import { within } from '#pacing/within'
import type { WriteOutcome } from '../driver'
import { expired, type Sending } from '../writeQueue'
import type { Target } from './items'
import { generalFault } from '../../opcua/refusals'
import type { SignedIn } from './signedIn'
import { sendOnce } from '../../opcua/internals'

interface Way {
  here: Pick<SignedIn, 'session' | 'isBroken'>
  nodeId: string
  answerMs: number
  host: string
}

interface As extends Sending {
  /** Who writes: it goes along for the records of the far side (OPC 10000-4, 7.33, auditEntryId). */
  who: string
}

/** Turns a value in engineering units into what the node takes, writes it, and says what the server made of it. */
export const writeTarget = async (way: Way, target: Target, value: TagValue, { until, who }: As): Promise<WriteOutcome> => {
  const { point, steps } = target
  const unscaled = toRaw(value, point.type, point.scaling)
  if (!unscaled.ok)
    return {
      ok: false,
      quality: unscaled.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange,
      fault: fault('write.value', { path: point.path, problem: unscaled.detail }),
    }
  const present = await presentValue(way)
  if ('fault' in present) return { ok: false, quality: quality.BadNoCommunication, fault: present.fault }
  const outgoing = steps.length > 0 ? withMember(present.value, steps, unscaled.raw) : fitting(unscaled.raw, point.type, present.value)
  if (typeof outgoing === 'string')
    return { ok: false, quality: quality.BadTypeMismatch, fault: fault('write.value', { path: point.path, problem: outgoing }) }
  if (way.here.isBroken || steadyNow() > until) return expired(point.path)
  return send(way, point.path, outgoing, who)
}

const presentValue = async ({ here, nodeId, answerMs, host }: Way): Promise<{ value: Variant | null } | { fault: Fault }> => {
  try {
    return { value: (await within(answerMs, here.session.read({ nodeId, attributeId: AttributeIds.Value }))).value }
  } catch (error) {
    return { fault: generalFault(error, `read ${nodeId} before the write`, { host, port: 0, answerMs }) }
  }
}

/** Now or never; what came of it. */
const send = async ({ here, nodeId, answerMs }: Way, path: string, value: Variant, who: string): Promise<WriteOutcome> => {
  const nodesToWrite = [new WriteValue({ nodeId, attributeId: AttributeIds.Value, value: { value } })]
  try {
    const { responseHeader, results } = await within(
      answerMs,
      sendOnce(here.session, new WriteRequest({ requestHeader: { auditEntryId: who }, nodesToWrite })),
    )
    const status = responseHeader.serviceResult.isGood() ? results![0]! : responseHeader.serviceResult
    return status.isGood() || status.name.startsWith('Good') ? { ok: true } : refused(path, status)
  } catch (error) {
    return unanswered(path, error as Error & { response?: { responseHeader: { serviceResult: StatusCode } } })
  }
}

/** A service fault is an answer; silence is none. */
const unanswered = (path: string, error: Error & { response?: { responseHeader: { serviceResult: StatusCode } } }): WriteOutcome => {
  const status = error.response?.responseHeader.serviceResult
  if (status) return refused(path, status)
  return { ok: false, quality: quality.BadNoCommunication, fault: fault('write.unknown', { path, problem: error.message }) }
}

const refused = (path: string, status: StatusCode): WriteOutcome => ({
  ok: false,
  quality: status.value,
  fault: fault('write.refused', { path, status: status.name, words: statusWords(status.name) }, status.name),
})

/** The node's own type has the say: a tag may carry it as another one that holds the same values. */
const fitting = (raw: TagValue, type: DataType, present: Variant | null): Variant | string => {
  const own = present?.dataType
  if (!own) return variantOf(raw, type)
  const isArray = present.arrayType !== VariantArrayType.Scalar
  if (isArray !== isArrayValue(raw)) return isArray ? 'the node holds an array' : 'the node holds a single value'
  if (own === UaType.LocalizedText) return new Variant({ dataType: own, value: { text: String(raw as string) } })
  const ownType = typeFromUa(own, isArray ? 1 : -1)
  if (elementOf(ownType) === 'string' && own !== UaType.String) return `the node holds a ${UaType[own]}, which cannot be written as text`
  if (ownType === type) return variantOf(raw, type)
  const again = toRaw(raw, ownType, null)
  return again.ok ? variantOf(again.raw, ownType) : `the node holds ${ownType}: ${again.detail}`
}

/** A structure or array is written whole, as it was just read, with the one part changed. */
const withMember = (present: Variant | null, steps: readonly MemberStep[], raw: TagValue): Variant | string => {
  const last = steps[steps.length - 1]!
  const holder = follow(present?.value, steps.slice(0, -1))
  if (!present || holder === null || typeof holder !== 'object') return 'it has no such member'
  const key = typeof last === 'number' ? (last < (holder as ArrayLike<unknown>).length ? last : null) : keyOf(holder, last)
  if (key === null) return `it has no member “${last}”`
  const before = (holder as Record<string | number, unknown>)[key]
  const after = likeBefore(raw, before)
  if (after === undefined) return `“${last}” holds a ${typeof before}`
  ;(holder as Record<string | number, unknown>)[key] = after
  return present
}

const likeBefore = (raw: TagValue, before: unknown): unknown => {
  if (typeof before === 'number') return typeof raw === 'number' ? raw : typeof raw === 'bigint' ? Number(raw) : undefined
  if (typeof before === 'boolean') return typeof raw === 'boolean' ? raw : undefined
  if (typeof before === 'string' || before === null) return String(raw as string)
  if (before instanceof Date) return new Date(Number(raw))
  return undefined
}
