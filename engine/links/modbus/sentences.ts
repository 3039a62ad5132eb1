import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { Flow } from '#shared/flow'
import type { UnitStatus } from '#shared/status'

interface UnitFacts {
  health: { silentInARow: number; silentSince: number; leftOutUntil: number; requests: number; lastFault: Fault | null }
  lane: { isOpen: boolean; fault: Fault | null; isClosedAfterReply: boolean; reopeningMs: number }
  rounds: UnitStatus['rounds']
  /** What the device refuses, address by address. */
  refused: readonly { address: string }[]
  now: number
}

/** Says in a sentence how a unit is doing, and which state its pipe shows. */
export const sentenceFor = (facts: UnitFacts): { flow: Flow; sentence: string; isSlow?: true } => {
  const { health, lane, now } = facts
  if (!lane.isOpen) return { flow: 'broken', sentence: lane.fault?.what ?? 'Connecting' }
  if (health.leftOutUntil > 0) return { flow: 'broken', sentence: leftOut(health, now) }
  if (health.silentInARow > 0) return { flow: 'late', sentence: unanswered(health) }
  if (health.requests === 0) return { flow: 'late', sentence: facts.rounds.length > 0 ? 'Waiting for the first reply' : 'No tags yet' }
  const slow = facts.rounds.find((round) => round.measuredMs !== null && round.measuredMs > round.interval)
  if (slow)
    return {
      ...{ flow: 'late', isSlow: true },
      sentence: `A round takes ${duration(slow.measuredMs!)}, its tags ask for every ${duration(slow.interval)}`,
    }
  return { flow: 'flowing', sentence: [steady(facts.rounds), refusals(facts.refused), habit(lane)].filter(Boolean).join(' · ') }
}

/** One cause, one sentence: something that came and cannot be used is no silence. */
const unanswered = ({ silentInARow, lastFault }: UnitFacts['health']) =>
  lastFault && lastFault.code !== 'modbus.silent' ? lastFault.what : `${counted(silentInARow, 'request')} in a row without a reply`

const refusals = (refused: UnitFacts['refused']) => {
  if (refused.length === 0) return ''
  const addresses = [...new Set(refused.map(({ address }) => address))]
  const named = addresses.slice(0, 3)
  return `the device refuses ${named.join(', ')}${addresses.length > named.length ? ` and ${addresses.length - named.length} more` : ''}`
}

/** The habit itself is no fault; what it costs is worth to know. */
const habit = ({ isClosedAfterReply, reopeningMs }: UnitFacts['lane']) =>
  isClosedAfterReply ? `the device closes after each reply; opening again costs ${duration(reopeningMs)} each time` : ''

const leftOut = (health: UnitFacts['health'], now: number) => {
  const again = Math.max(0, Math.ceil((health.leftOutUntil - now) / 1000))
  const how = health.lastFault && health.lastFault.code !== 'modbus.silent' ? 'Nothing usable' : 'Silent'
  return `${how} for ${duration(now - health.silentSince)}, left out of the round, tried again in ${again} s`
}

const steady = (rounds: UnitStatus['rounds']) =>
  rounds
    .map(
      (round) =>
        `Round ${round.measuredMs === null ? '—' : duration(round.measuredMs)} of ${duration(round.interval)} · ${counted(round.requests, 'request')}`,
    )
    .slice(0, 2)
    .join(', ')

/** The whole link in one sentence: the worst unit speaks, with the others counted. */
export const linkSentence = (units: readonly UnitStatus[]): { flow: Flow; sentence: string; fault: Fault | null } => {
  if (units.length === 0) return { flow: 'flowing', sentence: 'Connected, no tags yet', fault: null }
  const broken = units.filter((unit) => unit.flow === 'broken')
  const worst = broken[0] ?? units.find((unit) => unit.flow === 'late')
  if (!worst) return { flow: 'flowing', sentence: allSound(units), fault: null }
  const flow = broken.length === units.length ? 'broken' : 'late'
  const named = units.length > 1 && broken.length < units.length ? `Unit ${worst.unit}: ${lowerFirst(worst.sentence)}` : worst.sentence
  return { flow, sentence: named, fault: worst.lastFault }
}

const allSound = (units: readonly UnitStatus[]) => {
  const refused = sum(units.map(({ refusedCount }) => refusedCount))
  if (units.length === 1) return units[0]!.sentence
  return `${roundText(units)}${refused > 0 ? ` · ${counted(refused, 'address', 'addresses')} refused` : ''}`
}

const roundText = (units: readonly UnitStatus[]) =>
  `${units.length} units answer, ${counted(sum(units.map((unit) => sum(unit.rounds.map((round) => round.requests)))), 'request')} a round`

const sum = (numbers: number[]) => numbers.reduce((total, n) => total + n, 0)
const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1)
