import { scalingText } from '#core/tags/curve'
import type { OddJudge } from '#core/tags/odd'
import { qualityText } from '#core/tags/quality'
import { isScaled, toEngineering, type Scaling } from '#core/tags/scaling'
import { passedOnType, type DataType, type TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import type { ValueStage } from '#shared/values'
import type { SampleSink } from '../table/intake'
import type { Handle } from '../table/tagTable'

/** Stages of a value that are the same for every protocol: from the raw value to what is passed on. */

interface Making {
  scaling: Scaling | null
  odd: OddJudge | null
}

/** What is made of a raw value: what it stands for where it is odd, else what scaling gives. */
export const madeStages = ({ scaling, odd }: Making, raw: TagValue): ValueStage[] => {
  const instead = odd?.(raw) ?? null
  if (instead !== null) return [oddStage(instead)]
  if (!isScaled(scaling)) return []
  return [{ title: 'Scaled', text: valueText(toEngineering(raw, scaling)), detail: scalingText(scaling) }]
}

const oddStage = (instead: 'bad' | 'last' | number): ValueStage => ({
  title: 'Odd value',
  text: typeof instead === 'number' ? valueText(instead) : 'the last value stays',
  detail: { bad: 'as bad', last: 'as uncertain' }[instead] ?? 'instead of it, as it was chosen',
})

/** What consumers get. */
export const passedStage = (handle: Handle, type: DataType, scaling: Scaling | null, table: SampleSink): ValueStage => ({
  title: 'Passed on',
  text: `${valueText(table.values[handle], passedOnType(type, isScaled(scaling)))} · ${qualityText(table.quality[handle]!)}`,
  detail: 'source time',
  at: table.sourceTime[handle]!,
})
