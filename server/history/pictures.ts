import { hasNamedValues, hasTexts, type Run } from '#core/history/runs'
import { valueName, type ValueName } from '#core/tags/valueNames'
import type { SeriesPicture } from '#shared/history'
import { historyReader } from '../store/history'
import type { SeriesFacts } from './series'

/** How series went over a span: those of numbers as lines, those of texts as which text they had when, those of named values as both. */
export const picturesOf = async (facts: readonly SeriesFacts[], from: number, to: number, columns: number): Promise<SeriesPicture[]> => {
  const reader = historyReader()
  const lines = idsOf(facts, ({ type }) => !hasTexts(type))
  const texts = idsOf(facts, ({ type, names }) => hasTexts(type) || hasNamedValues(type, names))
  const [pictures, told] = await Promise.all([
    lines.length > 0 ? reader.pictures(lines, from, to, columns) : [],
    texts.length > 0 ? reader.texts(texts, from, to, columns) : [],
  ])
  return facts.map(({ names, ...known }) => {
    const picture = pictures.find(({ id }) => id === known.id)
    const text = told.find(({ id }) => id === known.id)
    const runs = text ? text.runs.map((run) => called(run, names)) : null
    // what is too much to be shown by its names is a line
    if (picture) return { ...known, names, ...picture, runs: text?.since === null ? runs : null, since: null }
    const { isFirst, gaps, samples, seconds, since } = text!
    const statistics = { least: null, most: null, mean: null, samples, seconds }
    return { ...known, names, isFirst, drawnFrom: 'sample', at: [], values: [], runs, since, gaps, statistics }
  })
}

const idsOf = (facts: readonly SeriesFacts[], isMeant: (one: SeriesFacts) => boolean) => facts.filter(isMeant).map(({ id }) => id)

const called = (run: Run, names: readonly ValueName[]): Run => ({ ...run, text: valueName(run.text, names) ?? run.text })
