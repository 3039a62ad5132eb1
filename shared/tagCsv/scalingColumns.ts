import { numberCell, orElse, set, wordCell } from '#core/formats/cells'
import type { Column } from '#core/formats/column'
import { clamps, curves, isRanges, type RangeScaling } from '#core/tags/curve'
import type { LinkNames } from '../sources/columns'
import type { TagDraft } from '../tags'

type ScalingColumn = Column<TagDraft, LinkNames>

/** A tag is scaled in one way: by gain and offset, or from range to range. What is written last decides. */
export const scalingColumns: readonly ScalingColumn[] = [
  gainColumn('gain', 1, 'By what the raw value is multiplied. Empty: 1.'),
  gainColumn('offset', 0, 'What is added then. Empty: 0.'),
  endColumn('raw_low', 'raw', 'low', 'The low end of the range as the device sends it.'),
  endColumn('raw_high', 'raw', 'high', 'The high end of it.'),
  endColumn('scaled_low', 'to', 'low', 'What the low end is in the tag’s unit.'),
  endColumn('scaled_high', 'to', 'high', 'What the high end is.'),
  wordColumn('curve', curves, 'linear', 'linear, or root: the square root of the share of the range. Empty: linear.'),
  wordColumn('clamp', clamps, 'none', 'At which ends of the range values stop: none, low, high or both. Empty: none.'),
  {
    name: 'inverted',
    about: 'yes: the sign is turned around. Empty: no.',
    field: 'scaling.inverted',
    show: ({ scaling }) => (scaling && isRanges(scaling) && scaling.inverted ? 'yes' : null),
    put: (tag, cell) =>
      set(
        orElse(cell, 'no' as const, () => wordCell(cell, ['yes', 'no'], 'yes or no')),
        (word) => inRanges(tag, cell, (ranges) => ({ ...ranges, inverted: word === 'yes' })),
      ),
  },
]

function gainColumn(name: 'gain' | 'offset', usual: number, about: string): ScalingColumn {
  return {
    name,
    about,
    field: `scaling.${name}`,
    show: ({ scaling }) => (scaling && !isRanges(scaling) ? scaling[name] : null),
    put: (tag, cell, reading) =>
      set(
        orElse(cell, usual, () => numberCell(cell, reading)),
        (value) => {
          if (cell === '' && tag.scaling && isRanges(tag.scaling)) return
          const { gain, offset } = tag.scaling && !isRanges(tag.scaling) ? tag.scaling : { gain: 1, offset: 0 }
          const next = { gain, offset, [name]: value }
          // none, where nothing is changed by it
          tag.scaling = next.gain === 1 && next.offset === 0 ? null : next
        },
      ),
  }
}

function endColumn(name: string, side: 'raw' | 'to', end: 'low' | 'high', about: string): ScalingColumn {
  return {
    name,
    about,
    field: `scaling.${side}.${end}`,
    show: ({ scaling }) => (scaling && isRanges(scaling) && !Number.isNaN(scaling[side][end]) ? scaling[side][end] : null),
    put: (tag, cell, reading) =>
      set(
        orElse(cell, NaN, () => numberCell(cell, reading)),
        (value) => inRanges(tag, cell, (ranges) => ({ ...ranges, [side]: { ...ranges[side], [end]: value } })),
      ),
  }
}

function wordColumn<N extends 'curve' | 'clamp'>(
  name: N,
  words: readonly RangeScaling[N][],
  usual: RangeScaling[N],
  about: string,
): ScalingColumn {
  return {
    name,
    about,
    field: `scaling.${name}`,
    show: ({ scaling }) => (scaling && isRanges(scaling) && scaling[name] !== usual ? scaling[name] : null),
    put: (tag, cell) =>
      set(
        orElse(cell, usual, () => wordCell(cell, words, name)),
        (word) => inRanges(tag, cell, (ranges) => ({ ...ranges, [name]: word })),
      ),
  }
}

const noRanges: RangeScaling = {
  kind: 'ranges',
  raw: { low: NaN, high: NaN },
  to: { low: NaN, high: NaN },
  curve: 'linear',
  clamp: 'none',
  inverted: false,
}

/** An end that is not there yet is no number, which the contract refuses unless another column brings it. */
const inRanges = (tag: TagDraft, cell: string, change: (ranges: RangeScaling) => RangeScaling) => {
  const ranges = tag.scaling && isRanges(tag.scaling) ? tag.scaling : null
  if (!ranges && cell === '') return
  const { raw, to, ...rest } = change(ranges ?? noRanges)
  const isEmpty = [raw.low, raw.high, to.low, to.high].every(Number.isNaN)
  tag.scaling = isEmpty && cell === '' ? null : { raw, to, ...rest }
}
