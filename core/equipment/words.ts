import { counted } from '../text/counted'
import type { MadeOf } from './made'
import type { GatherWay, Made, RollupWay } from './settings'
import { windowText, type Window } from './windows'

/** What a property is made of, in words. */

const rollupWords: Record<RollupWay, string> = {
  ...{ min: 'least', max: 'most', range: 'most less least', mean: 'mean', 'mean by time': 'mean by time', sum: 'sum', count: 'number' },
  ...{ first: 'first', last: 'last', deviation: 'deviation', integral: 'integral over hours', 'time true': 'seconds true' },
}
const gatherWords: Record<GatherWay, string> = {
  ...{ sum: 'sum', min: 'least', max: 'most', mean: 'mean', count: 'number', 'all true': 'all true', 'any true': 'any true' },
}
export const rollupWord = (how: RollupWay) => rollupWords[how]
export const gatherWord = (how: GatherWay) => gatherWords[how]

const lastPart = (path: string) => path.slice(path.lastIndexOf('/') + 1)
const eachWindow = (window: Window) =>
  window.count === 1 && !['second', 'minute', 'hour'].includes(window.unit) ? `each ${window.unit}` : `every ${windowText(window)}`
const perWindow = ({ window, over }: Rolled) =>
  over === 1 ? eachWindow(window) : `over ${overText({ window, over })}, ${eachWindow(window)}`

interface Rolled {
  window: Window
  /** So many windows together. */
  over: number
}

/** As in `15 min`, `60 min`, `7 days`. */
export const overText = ({ window, over }: Rolled): string => {
  const count = window.count * over
  if (over === 1) return windowText(window)
  return ['second', 'minute', 'hour'].includes(window.unit) ? windowText({ ...window, count }) : `${count} ${window.unit}s`
}

/** Of one piece of equipment. */
export const madeText = (made: MadeOf): string => {
  switch (made.kind) {
    case 'constant':
      return made.value === null ? 'no value yet' : String(made.value)
    case 'input':
      return made.path === '' ? 'not bound' : made.path
    case 'formula':
      return made.formula
    case 'rollup':
      return `${rollupWord(made.how)} of ${lastPart(made.of)}, ${perWindow(made)}`
    case 'gather':
      return `${gatherWord(made.how)} of ${made.of[0] ? lastPart(made.of[0]) : 'nothing'} of ${counted(made.of.length, 'child', 'children')}`
  }
}

/** As a class says it. */
export const classText = (made: Made): string => {
  switch (made.kind) {
    case 'constant':
      return made.value === null ? 'each has its own' : `${made.value}, unless it has its own`
    case 'input':
      return made.alone ? 'a tag that is nobody else’s' : 'a tag'
    case 'formula':
      return made.formula
    case 'rollup':
      return `${rollupWord(made.how)} of ${made.of}, ${perWindow(made)}`
    case 'gather':
      return `${gatherWord(made.how)} of ${made.of} of ${made.depth === 'all' ? 'all below' : 'children'}${made.class === '' ? '' : ` of the class ${made.class}`}`
  }
}
