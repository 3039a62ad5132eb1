import { fault, type Fault } from '#core/faults/catalogue'
import { partWord } from '#core/links/registry'
import { counted } from '#core/text/counted'
import type { CheckStep, LinkStatus, UnitStatus } from '#shared/status'
import type { LinkRunner } from '../links/linkRunner'

/** So many parts of a far side stand in a check by themselves. */
const mostParts = 8

/**
 * The end of a path: parts of the far side that are asked by themselves and give nothing, and whether tags have fresh values.
 * Reached only where all before is sound; it tells what polling sees, and asks for nothing more.
 */
export async function* untilFresh(steps: AsyncGenerator<CheckStep>, link: LinkRunner): AsyncGenerator<CheckStep> {
  let stopped = false
  for await (const step of steps) {
    stopped ||= step.fault !== null
    yield step
  }
  if (stopped) return yield { ...fresh, flow: 'off', evidence: 'not reached' }
  const status = link.status()
  yield* partsOf(status, partWord(link.kind))
  yield freshStep(status)
}

const fresh = { step: 'fresh', title: 'Fresh values', ms: null, fault: null }

const partsOf = ({ units = [] }: LinkStatus, word: string): CheckStep[] => {
  const troubled = units.filter(({ flow }) => flow === 'broken' || flow === 'late')
  return troubled.slice(0, mostParts).map((unit) => partStep(unit, word))
}

export const partStep = (part: UnitStatus, word: string): CheckStep => {
  const name = part.title ?? `${word.charAt(0).toUpperCase()}${word.slice(1)} ${part.unit}`
  const why = faultOf(part, name)
  return {
    step: `${partPrefix}${part.unit}`,
    title: name,
    flow: why ? part.flow : 'waiting',
    evidence: part.sentence,
    ms: part.answerMs,
    fault: why,
  }
}

/** Null: it has nothing to do yet, or waits for its first reply. */
const faultOf = ({ flow, sentence, isSlow, lastFault }: UnitStatus, part: string): Fault | null => {
  if (flow === 'late' && isSlow) return fault('link.lags', { part, sentence }, sentence)
  return lastFault
}

/** Steps of parts of the far side are called so, and their number: all before them is sound. */
export const partPrefix = 'part-'

const freshStep = ({ tags, goodTags, flow, sentence, refused = [] }: LinkStatus): CheckStep => {
  if (tags === 0) return { ...fresh, flow: 'off', evidence: 'no tag reads over it yet' }
  const evidence = `${goodTags} of ${counted(tags, 'tag')} good`
  if (goodTags === tags) return { ...fresh, flow: 'flowing', evidence }
  if (goodTags === 0 && flow === 'broken') return { ...fresh, flow: 'waiting', evidence: `${evidence}; the link itself: ${sentence}` }
  const [first] = refused
  return { ...fresh, flow: 'late', evidence: first ? `${evidence}; first of the others: ${first.path}, ${first.why}` : evidence }
}
