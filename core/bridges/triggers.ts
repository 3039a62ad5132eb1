import { severityOf } from '../tags/quality'
import { sameValue, type TagValue } from '../tags/types'
import type { Trigger } from './settings'

/** A value of a tag as triggers look at it. */
export interface Seen {
  value: TagValue | undefined
  quality: number
}

export type TagTrigger = Extract<Trigger, { kind: 'change' | 'edge' | 'limit' }>
export const isTagTrigger = (trigger: Trigger): trigger is TagTrigger => 'tag' in trigger && trigger.kind !== 'alarm'

/**
 * Decides for one tag whether what it has now sets a bridge off. What it had first only tells where it stands; a value
 * that is bad says nothing.
 */
export type Watch = (seen: Seen) => boolean

export const watchFor = (trigger: TagTrigger): Watch => {
  const decide = deciderOf(trigger)
  return ({ value, quality }) => value !== undefined && severityOf(quality) !== 'bad' && decide(value)
}

const deciderOf = (trigger: TagTrigger): ((value: TagValue) => boolean) => {
  if (trigger.kind === 'change') return trigger.by === null ? anyChange() : changeBy(trigger.by)
  return trigger.kind === 'edge' ? edge(trigger.to) : crossing(trigger)
}

const anyChange = () => {
  let last: TagValue | undefined
  return (value: TagValue) => {
    const isOther = last !== undefined && !sameValue(last, value)
    last = value
    return isOther
  }
}

/** Measured from the value of the last run, so that a slow drift counts as well. */
const changeBy = (band: number) => {
  let base: TagValue | undefined
  return (value: TagValue) => {
    if (base !== undefined && !isBeyond(base, value, band)) return false
    const isFirst = base === undefined
    base = value
    return !isFirst
  }
}

/** Wide whole numbers are held apart exactly; what has no size differs or does not. */
const isBeyond = (a: TagValue, b: TagValue, band: number): boolean => {
  if (typeof a === 'bigint' && typeof b === 'bigint') return Number(a > b ? a - b : b - a) > band
  if (typeof a === 'number' && typeof b === 'number') return Math.abs(a - b) > band || Number.isNaN(a) !== Number.isNaN(b)
  return !sameValue(a, b)
}

const edge = (to: 'true' | 'false' | 'either') => {
  let last: boolean | undefined
  return (value: TagValue) => {
    const now = isTrue(value)
    const isEdge = last !== undefined && last !== now && (to === 'either' || (to === 'true') === now)
    last = now
    return isEdge
  }
}

const isTrue = (value: TagValue) => value === true || ((typeof value === 'number' || typeof value === 'bigint') && Number(value) !== 0)

const crossing = ({ way, limit, back }: Extract<Trigger, { kind: 'limit' }>) => {
  const sign = way === 'above' ? 1 : -1
  let isOver: boolean | undefined
  return (value: TagValue) => {
    const beyond = sign * (Number(value) - limit)
    if (Number.isNaN(beyond)) return false
    if (isOver === undefined) {
      isOver = beyond > 0
      return false
    }
    if (isOver && beyond <= -back) isOver = false
    else if (!isOver && beyond > 0) return (isOver = true)
    return false
  }
}
