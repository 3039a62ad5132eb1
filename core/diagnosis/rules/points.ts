import { duration } from '../../text/duration'
import type { Facts } from '../facts'
import { isSensible, triedText, type TriedVariant } from '../point'
import { against, forIt, stoppedBy, type Rule } from '../rule'
import { hostText } from '../words'
import { says, told } from './named'

/** What is wrong with a single point, while all on the way to it is sound. */

/** The device has nothing there, or nothing of this size. */
const isNotThere = (facts: Facts) => stoppedBy('modbus.exception')(facts) && says(facts, /exception [23],/) !== null
const isOdd = stoppedBy('point.implausible')

const tried = ({ point }: Facts, ...what: TriedVariant['what'][]): TriedVariant[] =>
  (point?.variants ?? []).filter((variant) => what.includes(variant.what))
const sensible = (facts: Facts, ...what: TriedVariant['what'][]) => tried(facts, ...what).filter(isSensible)
const listed = (variants: readonly TriedVariant[]): string | null => (variants.length > 0 ? variants.map(triedText).join('; ') : null)

export const pointRules: Rule[] = [
  {
    id: 'off-by-one',
    side: 'entry',
    explains: (facts) => isNotThere(facts) || (isOdd(facts) && sensible(facts, 'lower', 'higher').length > 0),
    title: (facts) => {
      const [one] = sensible(facts, 'lower', 'higher')
      return one
        ? `The address is off by one: ${one.address} gives ${one.gives}.`
        : 'The device has nothing at this address; its list may count from 1.'
    },
    where: () => 'In the tag',
    next: (facts) => {
      const [one] = sensible(facts, 'lower', 'higher')
      return [
        one
          ? `Take ${one.address} in the tag, and compare with what the device itself shows.`
          : 'Try the address one lower and one higher on the bench; lists that begin at 1, 40001 or 400001 travel as 0.',
        'A value that is wider than what is left at the end of its block is refused, too.',
      ]
    },
    signs: [
      forIt('strong', (facts) => (isNotThere(facts) ? told(facts) : null)),
      forIt('strong', (facts) => listed(sensible(facts, 'lower', 'higher'))),
      against('strong', (facts) => {
        const refused = tried(facts, 'lower', 'higher')
        return refused.length > 0 && refused.every(({ gives }) => gives === null) ? listed(refused) : null
      }),
      against('clear', ({ point, fault }) =>
        point?.otherWay && fault.code === 'point.implausible' ? 'its own bytes make sense in another way' : null,
      ),
    ],
  },
  {
    id: 'other-table',
    side: 'entry',
    explains: (facts) =>
      (stoppedBy('modbus.exception')(facts) && says(facts, /exception [12],/) !== null) ||
      (isOdd(facts) && sensible(facts, 'other table').length > 0),
    title: (facts) => {
      const [one] = sensible(facts, 'other table')
      return one
        ? `The point is in the other table: ${one.address} gives ${one.gives}.`
        : 'The device may have the point in its other table.'
    },
    where: () => 'In the tag',
    next: (facts) => [
      `Take ${sensible(facts, 'other table')[0]?.address ?? 'input registers instead of holding registers, or the reverse,'} in the tag.`,
    ],
    signs: [
      forIt('strong', (facts) => (says(facts, /exception 1,/) ? told(facts) : null)),
      forIt('strong', (facts) => listed(sensible(facts, 'other table'))),
      against('strong', (facts) => listed(tried(facts, 'other table').filter(({ gives }) => gives === null))),
      against('clear', (facts) => listed(sensible(facts, 'lower', 'higher'))),
    ],
  },
  {
    id: 'nothing-there',
    side: 'entry',
    explains: (facts) => isNotThere(facts) && (facts.point?.variants ?? []).length > 0,
    title: ({ point }) => `The device has nothing around ${point?.address ?? 'this address'}.`,
    where: (facts) => `In the tag, or in the settings of ${hostText(facts)}`,
    next: () => [
      'Compare with the device’s own list for its version; some blocks exist only where an option is fitted.',
      'Make sure that the number of the unit is that of this device, and not of its neighbour.',
    ],
    signs: [
      forIt('clear', told),
      forIt('strong', ({ point }) => ((point?.variants ?? []).every(({ gives }) => gives === null) ? listed(point?.variants ?? []) : null)),
      against('strong', (facts) => listed((facts.point?.variants ?? []).filter(isSensible))),
    ],
  },
  {
    id: 'order-or-type',
    side: 'entry',
    explains: isOdd,
    title: ({ point }) =>
      point?.otherWay
        ? `The bytes are in another order or of another type: as ${point.otherWay.label} they read ${point.otherWay.text}.`
        : 'The bytes are hardly what the tag takes them for.',
    where: () => 'In the tag',
    next: ({ point }) => [
      point?.otherWay
        ? `Read it as ${point.otherWay.label}, and compare with what the device itself shows.`
        : 'Look at all readings of its bytes on the sheet of the tag.',
    ],
    signs: [
      forIt('clear', ({ point }) => (point?.reads?.against.length ? `as it is read: ${point.reads.against.join(', ')}` : null)),
      forIt('strong', ({ point }) => (point?.otherWay ? `as ${point.otherWay.label}: ${point.otherWay.reasons.join(', ')}` : null)),
      against('hint', ({ point }) => (point?.otherWay ? null : 'no other reading of the same bytes makes more sense')),
    ],
  },
  {
    id: 'source-still',
    side: 'device',
    explains: stoppedBy('point.still'),
    title: ({ point }) => `The device does not measure “${point?.path ?? 'this'}” any more, or gives what it measured last.`,
    where: (facts) => `At the device behind ${hostText(facts)}`,
    next: () => [
      'Compare with what the device itself shows.',
      'Look at the sensor and its wiring; many devices keep the last value when it fails.',
    ],
    signs: [
      forIt('clear', told),
      forIt('strong', ({ point }) =>
        point?.still && point.still.moved > 0
          ? `${point.still.moved} of ${point.still.others} other tags of the same link moved meanwhile`
          : null,
      ),
      against('clear', (facts) => nothingMoves(facts)),
    ],
  },
  {
    id: 'gateway-still',
    side: 'device',
    explains: (facts) => stoppedBy('point.still')(facts) && (facts.point?.still?.others ?? 0) > 0,
    title: (facts) => `${hostText(facts)} answers from its memory: nothing behind it moves.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Look whether the gateway still reaches its devices; some answer with the last values when they do not.',
      'Look whether the controller is in RUN.',
    ],
    signs: [
      forIt('strong', nothingMoves),
      against('strong', ({ point }) => (point?.still && point.still.moved > 0 ? 'other tags of the same link move' : null)),
    ],
  },
  {
    id: 'tag-missing',
    side: 'entry',
    explains: stoppedBy('tag.gone', 'bridge.no-tag', 'equipment.no-input'),
    title: told,
    where: () => 'In the tags here',
    next: ({ fault }) => [fault.next],
    signs: [forIt('proof', told)],
  },
]

function nothingMoves({ point }: Facts): string | null {
  const { still } = point ?? {}
  return still && still.others > 0 && still.moved === 0
    ? `none of ${still.others} other tags of the same link moved within ${duration(still.ms)}`
    : null
}
