import { joints, type CheckStep, type Joint } from '#shared/status'

/** One part of the whole way, as worst as the worst of its steps. */
export interface WayPart {
  joint: Joint
  title: string
  flow: CheckStep['flow']
  /** The step that says so. */
  says: CheckStep
}

export const jointText: Record<Joint, string> = {
  link: 'Link',
  point: 'Far side',
  tag: 'Tag',
  bridge: 'Bridge',
  receiver: 'Receiver',
  outlet: 'Outlet',
  consumer: 'Consumer',
}

const badness: Record<CheckStep['flow'], number> = { broken: 4, late: 3, off: 2, waiting: 1, flowing: 0 }

/** The parts of a way in the order in which a value goes. */
export const partsOf = (steps: readonly CheckStep[]): WayPart[] =>
  joints.flatMap((joint) => {
    const those = steps.filter((step) => step.joint === joint)
    if (those.length === 0) return []
    const says = those.reduce((worst, step) => (badness[step.flow] >= badness[worst.flow] ? step : worst))
    return [{ joint, title: jointText[joint], flow: says.flow, says }]
  })

const beyondUs = new Set<Joint>(['bridge', 'receiver', 'outlet', 'consumer'])
const isBroken = ({ flow }: WayPart) => flow === 'broken' || flow === 'late'

/** Whose side it is, as far as it was measured; and what was not. */
export const sideOf = (parts: readonly WayPart[]): string => {
  const broken = parts.filter(isBroken)
  const before = broken.filter(({ joint }) => joint === 'link' || joint === 'point')
  const past = broken.filter(({ joint }) => beyondUs.has(joint))
  if (before.length > 0 && past.length > 0) return 'It breaks on both sides of us.'
  if (before.length > 0) return 'The break is before us: what the far side gives is passed on as it is.'
  if (past.length > 0) return `The value comes in. The break is past it, at ${past.map(({ says }) => says.title).join(' and ')}.`
  if (broken.length > 0) return 'The break is here: what comes in is sound, and what is made of it is not.'
  if (parts.some(({ joint }) => joint === 'bridge') && parts.some(({ joint }) => joint === 'receiver' || joint === 'consumer'))
    return 'What sets it off comes, and what it sends is taken.'
  const isServed = parts.some(({ joint }) => joint === 'outlet' || joint === 'bridge')
  return isServed
    ? 'It comes in and goes out. If a consumer sees something else, the fault is on its side, or between; that can only be measured from there.'
    : 'It comes in, and nothing takes it yet: no outlet shows it, and no bridge.'
}
