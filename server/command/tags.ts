import { readFileSync, writeFileSync } from 'node:fs'
import { basename } from 'node:path'
import { delimiters, type Delimiter } from '#core/formats/csv/dialect'
import { decimalSigns, type DecimalSign } from '#core/formats/csv/numbers'
import { counted } from '#core/text/counted'
import { importSettings, type ImportStatus } from '#shared/imports'
import type { Planned } from '#shared/tagCsv/plan'
import { linksNow } from '../imports/linksNow'
import { StagedImport } from '../imports/stagedImport'
import { matchingTags } from '../tags/matching'
import { tagTable } from '../tags/tagTable'
import { askYes, canAsk } from './ask'
import { tellEffect } from './effect'
import { runCommand, Wrong, type ValuesOf } from './run'

const usage = `./conduit tags export FILE [--link LINK] [--folder FOLDER] [--columns NAMES] [--delimiter D] [--decimal D]
./conduit tags check FILE [--missing remove] [--link LINK] [--folder FOLDER] [--delimiter D] [--decimal D]
./conduit tags apply FILE [the same] [--yes]

A table (CSV) of tags. What the file does not name stays, unless --missing remove says otherwise: then those of the
link and in the folder are removed. --part applies what fits where other lines are refused.
--demo   the demo’s site
--all    every line, however many`

const options = {
  yes: { type: 'boolean' },
  demo: { type: 'boolean' },
  all: { type: 'boolean' },
  part: { type: 'boolean' },
  link: { type: 'string' },
  folder: { type: 'string' },
  columns: { type: 'string' },
  missing: { type: 'string' },
  delimiter: { type: 'string' },
  decimal: { type: 'string' },
} as const
type Options = ValuesOf<typeof options>

const oneOf = <T extends string>(what: string, given: string | undefined, among: readonly T[]): T | undefined => {
  const meant = given === 'tab' ? '\t' : given
  if (meant !== undefined && !among.includes(meant as T))
    throw new Wrong(`${what} is ${among.map((one) => JSON.stringify(one)).join(' or ')}.`)
  return meant as T | undefined
}

const linkId = async (name: string | undefined): Promise<number | undefined> => {
  if (name === undefined) return undefined
  const id = (await linksNow()).idOf(name)
  if (id === undefined) throw new Wrong(`There is no link “${name}”.`)
  return id
}

const dialect = ({ delimiter, decimal }: Options) => ({
  delimiter: oneOf<Delimiter>('A delimiter', delimiter, delimiters),
  decimal: oneOf<DecimalSign>('A decimal sign', decimal, decimalSigns),
})

const exported = async (file: string, values: Options) => {
  const { delimiter = ',', decimal = '.' } = dialect(values)
  const which = await matchingTags({ link: await linkId(values.link), below: values.folder })
  const rows = await which.selectAll().orderBy('path').execute()
  const text = await tagTable(rows, await linksNow(), { columns: values.columns?.split(','), delimiter, decimal })
  writeFileSync(file === '-' ? 1 : file, text)
  if (file !== '-') console.log(`${counted(rows.length, 'tag')} in ${file}.`)
  return 0
}

/** Reads and plans; what cannot be read at all ends the command. */
const planned = async (file: string, values: Options): Promise<StagedImport> => {
  const settings = importSettings.safeParse({
    ...dialect(values),
    missing: values.missing ?? 'stay',
    below: values.folder ?? '',
    link: (await linkId(values.link)) ?? null,
  })
  if (!settings.success) throw new Wrong(`--missing is “stay” or “remove”.\n\n${usage}`)
  const name = file === '-' ? 'standard input' : basename(file)
  const staged = new StagedImport(1, name, 'command line', readFileSync(file === '-' ? 0 : file), settings.data)
  await staged.wait(600_000)
  refuseFault(staged.status())
  return staged
}

const refuseFault = ({ fault }: ImportStatus) => {
  if (fault) throw new Wrong([fault.what, fault.evidence, fault.next].filter(Boolean).join('\n'))
}

const signs = { added: '+', changed: '~', removed: '-', refused: '!', same: ' ' } as const

const lineText = (name: string, planned: Planned): string[] => {
  const title = `${signs[planned.what]} ${planned.path}`
  if (planned.what === 'changed')
    return [title, ...planned.changes.map(({ column, before, after }) => `    ${column}: ${before} → ${after}`)]
  if (planned.what !== 'refused') return [title]
  return planned.problems.map(({ column, message }) => `! ${name}:${planned.line}: ${column === null ? '' : `${column}: `}${message}`)
}

const tell = (staged: StagedImport, all: boolean | undefined) => {
  const shown = staged.lines.filter(({ what }) => what !== 'same')
  const most = all ? shown.length : 200
  for (const line of shown.slice(0, most).flatMap((planned) => lineText(staged.name, planned))) console.log(line)
  if (shown.length > most) console.log(`… and ${(shown.length - most).toLocaleString('en-GB')} more (--all shows them)`)
  const { added, changed, removed, refused, same } = staged.status().counts
  console.log(`${added} added, ${changed} changed, ${removed} removed, ${refused} refused, ${same} the same.`)
}

const check = async (file: string, values: Options) => {
  const staged = await planned(file, values)
  tell(staged, values.all)
  return staged.status().counts.refused > 0 ? 1 : 0
}

const apply = async (file: string, values: Options) => {
  const staged = await planned(file, values)
  tell(staged, values.all)
  const { refused, added, changed, removed } = staged.status().counts
  if (refused > 0 && !values.part) throw new Wrong('Nothing was changed. Mend the lines that are refused, or apply the others with --part.')
  if (added + changed + removed === 0) return 0
  if (!values.yes && !(canAsk() && (await askYes('Apply it?')))) {
    console.log('Nothing was changed.')
    return 1
  }
  staged.apply(new Set())
  await staged.wait(600_000)
  refuseFault(staged.status())
  await tellEffect(staged.status().revision!)
  return 0
}

await runCommand(usage, options, { export: exported, check, apply })
