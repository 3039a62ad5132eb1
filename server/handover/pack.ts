import { zipSync, strToU8, type Zippable } from 'fflate'
import { callsPart } from '#core/calls/written'
import { changeText } from '#core/diagnosis/changes'
import { Mask } from '#core/handover/mask'
import { summaryPage, type Summary } from '#core/handover/summary'
import { visible } from '#core/text/visible'
import { writeSite, type Things } from '#db/siteText/write'
import { keyOf, subjectsInOrder } from '#db/subjects'
import type { PathRecord, PassedPiece } from '#shared/diagnosis'
import { packForm, type CaseFacts, type PackHead } from '#shared/handover'
import { partOf } from '../siteText/part'
import { siteNow, type SiteNow } from '../siteText/siteNow'
import { asListed, journalPage } from '../journal/entries'
import { database } from '../store/database'
import { captureOf } from './captures'
import { knownSecrets } from './knownSecrets'

const mostJournal = 5000
const mostRevisions = 200
const shownTroubles = 60

interface Made {
  by: string
  version: string
  at: number
  /** Of which links and outlets it tells what passed, as in `link-3,outlet-2`; `none`; null: all. */
  traffic: string | null
}

/** Everything that helps from afar, in one archive; whatever is a secret is taken out of each part of it. */
export const handoverPack = async (all: CaseFacts, made: Made): Promise<Uint8Array> => {
  const facts = made.traffic === null ? all : withTrafficOf(made.traffic.split(','), all)
  const site = await siteNow(database())
  const mask = new Mask(knownSecrets(site.things))
  const { items } = await journalPage({ offset: 0, limit: mostJournal }, '-id')
  const journal = items.map(asListed)
  const revisions = await database().selectFrom('revision').selectAll().orderBy('number', 'desc').limit(mostRevisions).execute()
  const lists = partOf(site.things, null, {})
  const parts: [name: string, what: string, text: string][] = [
    [
      'configuration.yaml',
      'the configuration as a text; ./conduit site applies it',
      [...writeSite(site.name, null, lists as Exclude<typeof lists, string>, site.things)].join(''),
    ],
    ['status.json', 'the state of everything as the engine told it', json(facts.status)],
    ['machine.json', 'the machine of the engine', json(facts.machine)],
    ['statistics.json', 'what was asked of each link, outlet and bridge, and how it was answered', json(facts.statistics)],
    ['path-checks.json', 'the last path checks, the newest first', json(facts.checks.map((check) => cleanCheck(check, mask)))],
    ['journal.jsonl', 'the last events, the newest first, a line each', lines(journal)],
    ['revisions.jsonl', 'who changed what, the newest first, a line each', lines(revisions)],
    ['certificates.json', 'certificates that were decided about; no keys', json(site.things.certificate)],
    ...facts.passed
      .filter(({ pieces }) => pieces.length > 0)
      .map(({ of, id, name, pieces }): [string, string, string] => [
        `passed/${of}-${id}.txt`,
        `what passed last over ${name}; beside it as .pcapng`,
        pieces.map((piece) => pieceLine(piece, mask)).join('\n') + '\n',
      ]),
  ]
  const calls = facts.calls.filter((one) => one.calls.length > 0)
  for (const { outlet, name, calls: last } of calls)
    parts.push([
      `calls/outlet-${outlet}.jsonl`,
      `what clients of ${name} asked last, the newest first, a line each`,
      callsPart('lines', last),
    ])
  const head: PackHead = {
    form: packForm,
    site: site.name,
    revision: site.revision,
    madeAt: new Date(made.at).toISOString(),
    by: made.by,
    version: made.version,
  }
  parts.push([
    'case.json',
    'the rest, for a copy of the program that looks at the case',
    json({ numbers: numbersOf(site.things), ...restOf(facts, mask) }),
  ])
  const summary = summaryOf(facts, site, made, journal, parts)
  const files: Zippable = {
    'summary.html': strToU8(summaryPage(mask.value(summary))),
    'pack.json': strToU8(json(mask.value(head))),
  }
  for (const [name, , text] of parts) files[name] = strToU8(mask.text(text))
  for (const of of facts.passed) if (of.pieces.length > 0) files[`passed/${of.of}-${of.id}.pcapng`] = captureOf(of, mask)
  return zipSync(files, { level: 6, mtime: made.at })
}

/** What others passed is not in it, also not beside their path checks. */
const withTrafficOf = (chosen: readonly string[], facts: CaseFacts): CaseFacts => {
  const isChosen = (of: string, id: number) => chosen.includes(`${of}-${id}`)
  return {
    ...facts,
    passed: facts.passed.filter(({ of, id }) => isChosen(of, id)),
    calls: facts.calls.filter(({ outlet }) => isChosen('outlet', outlet)),
    checks: facts.checks.map((check) =>
      check.verdict && !isChosen(check.of, check.id) ? { ...check, verdict: { ...check.verdict, exchange: null } } : check,
    ),
  }
}

const json = (value: unknown) => `${JSON.stringify(value, null, 2)}\n`
const lines = (rows: readonly unknown[]) => rows.map((row) => `${JSON.stringify(row)}\n`).join('')

const cleanPiece = ({ bytes, ...piece }: PassedPiece, mask: Mask): PassedPiece => ({
  ...piece,
  bytes: Buffer.from(mask.bytes(Buffer.from(bytes, 'base64'))).toString('base64'),
})

const cleanCheck = (check: PathRecord, mask: Mask): PathRecord => {
  const exchange = check.verdict?.exchange
  if (!check.verdict || !exchange) return check
  const clean = (pieces: PassedPiece[]) => pieces.map((piece) => cleanPiece(piece, mask))
  return { ...check, verdict: { ...check.verdict, exchange: { good: clean(exchange.good), failed: clean(exchange.failed) } } }
}

/** By which numbers the other parts mean the things of the configuration, which goes by names. */
const numbersOf = (things: Things) =>
  Object.fromEntries(
    subjectsInOrder().map((subject) => [
      subject,
      Object.fromEntries((things[subject] as readonly { id: number }[]).map((thing) => [keyOf(subject, thing as never), thing.id])),
    ]),
  )

const restOf = ({ passed, calls, values, alarms }: CaseFacts, mask: Mask) => ({
  passed: passed.map((one) => ({ ...one, pieces: one.pieces.map((piece) => cleanPiece(piece, mask)) })),
  ...{ calls, values, alarms },
})

const pieceLine = ({ at, out, connection, peer, length, bytes }: PassedPiece, mask: Mask): string => {
  const shown = mask.bytes(Buffer.from(bytes, 'base64'))
  const hex = Buffer.from(shown).toString('hex').replace(/../g, '$& ').trim()
  return `${new Date(at).toISOString()} ${out ? '>' : '<'} ${connection} ${visible(peer)} ${length} ${hex}`
}

type JournalRow = { at: string; severity: string; source: string; text: string }

const summaryOf = (
  { status, machine, checks }: CaseFacts,
  { name, revision, things }: SiteNow,
  made: Made,
  journal: readonly JournalRow[],
  parts: readonly (readonly [string, string, string])[],
): Summary => {
  const nameOf = (subject: 'link' | 'outlet' | 'bridge' | 'recordSet' | 'tag', id: number) => {
    const found = (things[subject] as readonly { id: number; name?: string; path?: string }[]).find((one) => one.id === id)
    return found?.name ?? found?.path ?? `${subject} ${id}`
  }
  const stateOf = (kind: string, subject: Parameters<typeof nameOf>[0], all: readonly { id: number; flow: string; sentence: string }[]) =>
    all.map(({ id, flow, sentence }) => ({ kind, name: nameOf(subject, id), flow, sentence }))
  const newest = new Map<string, PathRecord>()
  for (const check of checks) if (!newest.has(`${check.of} ${check.id}`)) newest.set(`${check.of} ${check.id}`, check)
  return {
    ...{ site: name, revision, madeAt: made.at, by: made.by, version: made.version },
    machine: Object.entries(machine).map(([what, value]) => [what, Array.isArray(value) ? value.join('; ') : String(value)]),
    things: [
      ...stateOf('link', 'link', status.links),
      ...stateOf('record set', 'recordSet', status.recordSets),
      ...stateOf('bridge', 'bridge', status.bridges),
      ...stateOf('outlet', 'outlet', status.outlets),
    ],
    notInForce: status.notInForce.map(({ name: thing, fault }) => ({ name: thing, why: fault.what })),
    stops: [...newest.values()].flatMap((check) => stopOf(check, nameOf(check.of, check.id))),
    journal: journal
      .filter(({ severity }) => severity !== 'note')
      .slice(0, shownTroubles)
      .map(({ at, severity, source, text }) => ({ at: Date.parse(at), severity, source, text })),
    files: [['summary.html', 'this page'], ['pack.json', 'which pack this is'], ...parts.map(([file, what]) => [file, what] as const)],
  }
}

const stopOf = ({ verdict, steps, at }: PathRecord, name: string): Summary['stops'] => {
  if (!verdict) return []
  const step = steps.find((one) => one.step === verdict.step)
  const changes = verdict.changes.map(({ what, before, now }) => `${changeText[what]}: ${before} before, ${now} now`)
  return [
    {
      name,
      at,
      step: step?.title ?? verdict.step,
      evidence: step?.fault?.what ?? '',
      causes: verdict.causes,
      changes,
      lastGood: verdict.lastGood,
    },
  ]
}
