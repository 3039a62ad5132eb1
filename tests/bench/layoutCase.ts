import { runBundled } from './child'
import { times, type Section } from './report'

interface Side {
  fields: number
  blocks: number
  ms: number
}

export const layoutCase = async (): Promise<Section> => {
  const { count, registers, ours, plain } = await runBundled<{ count: number; registers: number; ours: Side; plain: Side }>('layout.ts')
  const share = (value: number) => `${Math.round(100 * value)} %`
  return {
    title: 'The layout of unknown registers',
    how: `${count} blocks of 24 to 30 registers with layouts that are known, in a random order of words, forty moments in ten seconds; right is a field whose registers and whose every value are right. Plain: a script that looks for floats of an everyday size that move little, in the order of words that gives most of them, and takes all else for single whole numbers.`,
    rows: [
      { what: 'blocks that are right as a whole', ours: share(ours.blocks), plain: share(plain.blocks), ratio: '—', aim: 'at least 90 %' },
      {
        what: 'fields that are right',
        ours: share(ours.fields),
        plain: share(plain.fields),
        ratio: times(ours.fields / plain.fields),
        aim: '—',
      },
      {
        what: `a block of ${registers} registers`,
        ours: `${Math.round(ours.ms)} ms`,
        plain: `${Math.round(plain.ms)} ms`,
        ratio: times(ours.ms / plain.ms),
        aim: '—',
      },
    ],
  }
}
