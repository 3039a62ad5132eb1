import { runBundled } from './child'
import { times, type Section } from './report'

interface Measured {
  count: number
  noted: number
  allMs: number
  editMs: number
  plainMs: number
}

export const notesCase = async (): Promise<Section> => {
  const { count, noted, allMs, editMs, plainMs } = await runBundled<Measured>('notes.ts')
  return {
    title: `Notes on ${count.toLocaleString('en-GB')} tags`,
    how: `Overlaps, duplicates, parts of wider values, ranges that a type cannot carry and names that differ in case, on ${noted.toLocaleString('en-GB')} of them; in one thread, the middle of five runs, of 200 for one edit. Plain: a script that notes for each register which tag has it, overlaps and nothing else, and does all of it again after an edit.`,
    rows: [
      {
        what: 'all tags',
        ours: `${Math.round(allMs)} ms`,
        plain: `${Math.round(plainMs)} ms`,
        ratio: times(allMs / plainMs),
        aim: 'under 2 s',
      },
      {
        what: 'one edit',
        ours: `${editMs.toFixed(2)} ms`,
        plain: `${Math.round(plainMs)} ms`,
        ratio: times(editMs / plainMs),
        aim: 'under 20 ms',
      },
    ],
  }
}
