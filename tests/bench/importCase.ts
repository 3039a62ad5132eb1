import { runBundled } from './child'
import { times, type Section } from './report'

interface Measured {
  count: number
  columns: number
  megabytes: number
  parseMs: number
  newMs: number
  changedMs: number
  copyMs: number
  applyMs: number
}

export const importCase = async (): Promise<Section> => {
  const { count, columns, megabytes, parseMs, newMs, changedMs, copyMs, applyMs } = await runBundled<Measured>('import.ts')
  const row = (what: string, ours: number, theirs: number, aim: string) => ({
    what,
    ours: `${Math.round(ours)} ms`,
    plain: `${Math.round(theirs)} ms`,
    ratio: times(ours / theirs),
    aim,
  })
  return {
    title: `A table of ${count.toLocaleString('en-GB')} tags`,
    how: `${columns} columns, ${megabytes.toFixed(1)} MB; the middle of five runs. Planning reads the table, checks every line by its link and says what it changes; plain: the public \`csv-parse\` reads the same text and no more. Applying brings the tags into the configuration as one revision that can be taken back; plain: COPY of the same rows into the same table, and no more.`,
    rows: [
      row('plan, all of them new', newMs, parseMs, 'below 1.5 ×'),
      row('plan, a tenth of them changed', changedMs, parseMs, 'below 1.5 ×'),
      row('apply, all of them new', applyMs, copyMs, 'below 3 ×'),
    ],
  }
}
