import { writeFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'

/** One measured case: ours and the plain way, in the same run. */
export interface Row {
  what: string
  ours: string
  plain: string
  ratio: string
  aim: string
}

export interface Section {
  title: string
  how: string
  rows: Row[]
}

export const perSecond = (value: number) => `${Math.round(value).toLocaleString('en-GB')}/s`
export const times = (value: number) => `${value.toFixed(2)} ×`

export const writeReport = (sections: Section[]) => {
  const machine = `${cpus().length} × ${cpus()[0]?.model ?? 'unknown'}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node.js ${process.version}`
  const text = [
    '# Benchmarks',
    '',
    `Written by \`./conduit bench\` on ${new Date().toISOString().slice(0, 10)}: ${machine}. Both sides of each row ran one after the other in the same run.`,
    ...sections.flatMap(({ title, how, rows }) => [
      '',
      `## ${title}`,
      '',
      how,
      '',
      '| case | ours | plain | ratio | aim |',
      '| --- | ---: | ---: | ---: | --- |',
      ...rows.map((row) => `| ${row.what} | ${row.ours} | ${row.plain} | ${row.ratio} | ${row.aim} |`),
    ]),
    '',
  ].join('\n')
  console.log(text)
  writeFileSync('docs/benchmarks.md', text)
}
