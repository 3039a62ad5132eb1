import type { MadeOf } from '#core/equipment/made'
import { rolledUp } from '#core/equipment/rollup'
import { together } from '#core/equipment/slide'
import { bordersFrom, windowAt, windowsAfter, windowsBefore, type Stretch } from '#core/equipment/windows'
import type { OpenBucket } from '#core/history/bucket'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { Turns } from '#pacing/turns'
import { recordedValue } from '#core/history/recordedValue'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Recalling } from './recalling'

interface Asked {
  tag: RegisteredTag
  made: MadeOf & { kind: 'rollup' }
  zone: string
  recalling: Recalling
  /** What came late or was not seen falls into it. */
  span: Stretch
  /** When the window at hand began: everything before is over. */
  hand: number
}

export interface Correction {
  at: number
  value: TagValue | undefined
  quality: number
}

export interface MadeUp {
  /** The windows of the span as they are by now, in order. */
  windows: OpenBucket[]
  /** What was told otherwise, or not at all. */
  corrections: Correction[]
  /** What is left of the span; null: nothing. */
  rest: Stretch | null
  /** Whether the window at hand begins with something else by now. */
  reachesHand: boolean
}

/** So many windows are made again in one step. */
const mostAtOnce = 1500

/**
 * Makes windows again from what was recorded: those that a span touches, those after it that begin with what held at its end,
 * and those that slide over them. @returns null: nothing is recorded here
 */
export const madeUp = async (asked: Asked): Promise<MadeUp | null> => {
  const { made, zone, recalling, span, hand } = asked
  const { window, over, of } = made
  const next = await recalling.nextAt(of, span.to)
  const reachesHand = next === null || next >= hand
  const changedTo = reachesHand ? hand : windowAt(window, next, zone).to
  // one more window: what it was told may have been what held before, which is not told twice
  const touchedTo = Math.min(hand, windowsAfter(window, changedTo, over, zone))
  const first = windowAt(window, span.from, zone).from
  const begin = windowsBefore(window, first, over - 1, zone)
  const borders = bordersFrom(window, begin, touchedTo, zone, mostAtOnce + over - 1)
  const end = Math.min(borders.at(-1)!, touchedTo)
  if (end <= first) return { windows: [], corrections: [], rest: null, reachesHand }
  const found = await recalling.intervals(of, borders, hand)
  if (!found) return null
  const rest = end < touchedTo ? { from: end, to: touchedTo } : null
  const right = await rightValues(asked, found, over)
  return { windows: found.map(({ whole }) => whole), corrections: await differing(asked, right), rest, reachesHand }
}

/** What each window says, of which all is known exactly. */
const rightValues = async (
  { tag, made }: Asked,
  windows: readonly { whole: OpenBucket; isExact: boolean }[],
  over: number,
): Promise<Correction[]> => {
  const right: Correction[] = []
  const turns = new Turns()
  for (let i = over - 1; i < windows.length; i++) {
    if (turns.isOver) await turns.next()
    const parts = windows.slice(i - over + 1, i + 1)
    if (parts.some(({ isExact }) => !isExact)) continue
    const whole = together(
      parts.map((part) => part.whole),
      parts[0]!.whole.at,
    )
    const { value, quality } = rolledUp(made.how, whole)
    const fits = value === null ? null : toRaw(value, tag.type, null)
    right.push({ at: whole.end, value: fits?.ok ? fits.raw : undefined, quality })
  }
  return right
}

/** Of these, what the record does not say already: each is compared with what holds there, the corrections before it included. */
const differing = async ({ tag, recalling }: Asked, right: readonly Correction[]): Promise<Correction[]> => {
  const [first, last] = [right[0], right.at(-1)]
  if (!first || !last) return []
  const told = await recalling.told(tag, first.at, last.at + 1)
  let next = 0
  let holds: { number: number; text: string | null; quality: number } | undefined
  return right.filter(({ at, value, quality }) => {
    for (; next < told.length && told[next]!.at <= at; next++) holds = told[next]
    const { number, text } = recordedValue(value)
    if (holds && holds.quality === quality && holds.text === text && Object.is(holds.number, number)) return false
    holds = { number, text, quality }
    return true
  })
}
