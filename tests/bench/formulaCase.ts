import { runBundled } from './child'
import { times, type Section } from './report'

interface Measured {
  rounds: number
  measured: { text: string; oursMs: number; plainMs: number }[]
}

export const formulaCase = async (): Promise<Section> => {
  const { rounds, measured } = await runBundled<Measured>('formulas.ts')
  return {
    title: `${rounds.toLocaleString('en-GB')} evaluations of a formula`,
    how: 'The middle of five runs. Plain: the compiled form of the same package (`mathjs`, numbers only) with the same inputs in a Map.',
    rows: measured.map(({ text, oursMs, plainMs }) => ({
      what: `\`${text}\``,
      ours: `${Math.round(oursMs)} ms`,
      plain: `${Math.round(plainMs)} ms`,
      ratio: times(oursMs / plainMs),
      aim: 'at most 1.3 ×',
    })),
  }
}
