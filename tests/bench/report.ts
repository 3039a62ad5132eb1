import { readFileSync, writeFileSync } from 'node:fs'
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
/** As in `12.5 ms`. */
export const milliseconds = (value: number) => `${value.toFixed(1)} ms`
export const times = (value: number) => `${value.toFixed(2)} ×`

const file = 'docs/benchmarks.md'

/** The report keeps what it has of other cases. */
export const writeReport = (sections: Section[]) => {
  const machine = `${cpus().length} × ${cpus()[0]?.model ?? 'unknown'}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node.js ${process.version}`
  const day = new Date().toISOString().slice(0, 10)
  const texts = new Map(writtenSections())
  for (const section of sections) texts.set(section.title, textOf(section))
  const head = [
    '# Benchmarks',
    '',
    `Written by \`./conduit bench\` on ${day}: ${machine}. Both sides of each row ran one after the other in the same run.`,
  ]
  console.log(sections.map(textOf).join('\n\n'))
  writeFileSync(file, `${[head.join('\n'), ...texts.values()].join('\n\n')}\n`)
}

/** What the report has, by title. */
const writtenSections = (): [string, string][] =>
  readFileSync(file, 'utf8')
    .split(/\n(?=## )/)
    .slice(1)
    .map((text) => [/^## (.*)$/m.exec(text)![1]!, text.trim()])

const textOf = ({ title, how, rows }: Section) =>
  [
    `## ${title}`,
    '',
    how,
    '',
    '| case | ours | plain | ratio | aim |',
    '| --- | ---: | ---: | ---: | --- |',
    ...rows.map((row) => `| ${row.what} | ${row.ours} | ${row.plain} | ${row.ratio} | ${row.aim} |`),
  ].join('\n')
