import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { parse } from 'csv-parse/sync'
import { sql } from 'kysely'
import pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { recordsOf } from '#core/formats/csv/records'
import { changeConfiguration } from '#db/configuration'
import { columnsOf } from '#db/subjects'
import { linkContract } from '#shared/links/link'
import { columnMeant } from '#shared/tagCsv/header'
import { TagPlan } from '#shared/tagCsv/plan'
import type { Tag } from '#shared/tags'
import { applyPlan } from '../../server/imports/applyPlan'
import { linksNow } from '../../server/imports/linksNow'
import { closeDatabase } from '../../server/store/database'
import { databaseIn, startCluster } from '../support/cluster'

const count = 50_000
const names = [
  'path',
  'link',
  'address',
  'interval',
  'type',
  'access',
  'gain',
  'offset',
  'unit',
  'low',
  'high',
  'description',
  'word_order',
]

/** A table as a spreadsheet of an electrician's: a path, an address, and the rest much alike. */
const textOf = (gain: (i: number) => string) =>
  [
    names.join(';'),
    ...Array.from({ length: count }, (_, i) =>
      [
        `harbour/feeder_${i % 500}/channel_${Math.floor(i / 500)}`,
        'Feeder meters',
        `${11 + (i % 10)}:holding/${2 * Math.floor(i / 10)}`,
        i % 3 ? '1000' : '',
        'float32',
        'read',
        gain(i),
        '0',
        'kW',
        '0',
        '1500',
        `Active power of channel ${i}`,
        'CDAB',
      ].join(';'),
    ),
  ].join('\n')

/** The middle of five. @param before what does not count */
const measured = async (work: () => unknown, before: () => unknown = () => {}) => {
  const runs: number[] = []
  for (let i = 0; i < 5; i++) {
    await before()
    const started = performance.now()
    await work()
    runs.push(performance.now() - started)
  }
  return runs.sort((a, b) => a - b)[2]!
}

const planned = (text: string, tags: ReadonlyMap<string, Tag>, links: Awaited<ReturnType<typeof linksNow>>) => {
  const records = [...recordsOf(text, ';')].flat()
  const plan = new TagPlan({ columns: records[0]!.cells.map(columnMeant), decimal: ',' }, { tags, links })
  for (const record of records.slice(1)) plan.take(record)
  plan.end()
  return plan.lines
}

const measureAll = async () => {
  const cluster = await startCluster()
  const { url, db } = await databaseIn(cluster.url)
  process.env.CONDUIT_DATABASE = url
  const link = linkContract.parse({ name: 'Feeder meters', kind: 'modbus-tcp', settings: { host: '127.0.0.1' }, on: false })
  await changeConfiguration(db, 'bench', 'a link', (editor) => editor.insert('link', [link]))
  const links = await linksNow()
  const [first, second] = [textOf(() => '0,1'), textOf((i) => (i % 10 ? '0,1' : '0,01'))]

  const parseMs = await measured(() => parse(second, { delimiter: ';' }))
  const newMs = await measured(() => planned(first, new Map(), links))
  const added = planned(first, new Map(), links)
  const drafts = added.flatMap((line) => ('draft' in line ? [line.draft] : []))
  const tags = new Map(drafts.map((draft, i) => [draft.path, { ...draft, id: i + 1, revision: 1 }]))
  const changedMs = await measured(() => planned(second, tags, links))

  const columns = Object.keys(columnsOf('tag', drafts[0]!))
  const lines = drafts.map((draft) => `${columns.map((name) => copyText(columnsOf('tag', draft)[name])).join('\t')}\t1\n`)
  const plain = new pg.Client({ connectionString: url })
  await plain.connect()
  const copyMs = await measured(
    () =>
      pipeline(
        Readable.from(inPieces(lines)),
        plain.query(copyFrom(`copy tag (${columns.map((name) => `"${name}"`).join(', ')}, revision) from stdin`)),
      ),
    () => plain.query('truncate tag'),
  )
  await plain.end()
  const applyMs = await measured(
    () => applyPlan('tags.csv', 'bench', added, links, () => {}),
    () => sql`truncate tag`.execute(db),
  )
  await db.destroy()
  await closeDatabase()
  await cluster.stop()
  return { count, columns: names.length, megabytes: second.length / 1e6, parseMs, newMs, changedMs, copyMs, applyMs }
}

const copyText = (value: unknown) =>
  value === null || value === undefined
    ? '\\N'
    : (typeof value === 'object' ? JSON.stringify(value) : String(value)).replaceAll('\\', '\\\\')

function* inPieces(lines: readonly string[]) {
  for (let at = 0; at < lines.length; at += 500) yield lines.slice(at, at + 500).join('')
}

process.stdout.write(`${JSON.stringify(await measureAll())}\n`)
process.exit(0)
