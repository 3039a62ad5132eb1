import { z } from 'zod'
import { zoneProblem } from '#core/bridges/schedule'
import { idField, lineField, nameField, numberText, wholeNumber } from '#core/contracts/fields'
import { effect, engineStatus, notInForce } from '../status'
import { listedWrite } from '../writes'
import { before, listQuery, logPageOf, pageOf } from './lists'
import { fileBody, operation } from './operation'
import { pathRecord } from '../diagnosis'
import { caseHead, leftOut, machineFacts, packRevision } from '../handover'
import { fileRootsField } from '../siteFacts'
import { choices } from '../heldDatabase'
import { upkeepState } from '../upkeep'

const group = 'Site'
const goesOn = 'What goes on'

const zoneField = z
  .string({ error: 'A time zone is text.' })
  .trim()
  .max(60, 'At most 60 characters.')
  .superRefine((zone, context) => {
    const problem = zone === '' ? null : zoneProblem(zone)
    if (problem) context.addIssue({ code: 'custom', message: problem })
  })
  .describe('As the time zone database calls it: Europe/Oslo. Empty: the clock of the engine’s machine.')

const keepingShape = {
  days: wholeNumber('The number of days', 1, 36_500).nullable().describe('Revisions are kept for so long; null: for ever.'),
  most: wholeNumber('The number of revisions', 1, 1_000_000).nullable().describe('So many of them are kept; null: all.'),
}

export const showSite = operation('GET /site', {
  group,
  needs: 'look',
  does: 'The site’s name, its clock, its newest revision, how long revisions are kept, and which folders are allowed for files.',
  answer: z.object({
    name: z.string(),
    revision: z.int(),
    keeping: z.object(keepingShape),
    folders: z.array(z.string()),
    zone: z.string(),
    case: caseHead.nullable().describe('The case of another site that this copy looks at; null: none.'),
  }),
})

export const nameSite = operation('PUT /site', {
  group,
  needs: 'configure',
  does: 'Names the site, and says by which clock its days begin.',
  body: z.object({ name: nameField('site'), zone: zoneField.optional() }),
  example: { name: 'Harrow Sound ferry port', zone: 'Europe/Oslo' },
  answer: z.object({ name: z.string(), zone: z.string() }),
})

export const allowFolders = operation('PUT /site/folders', {
  group,
  needs: 'administer',
  does: 'Says below which folders of the engine’s machine, besides those that it was started with, files may be read and written.',
  body: z.object({ folders: fileRootsField }),
  example: { folders: ['/srv/exchange'] },
  answer: z.object({ folders: z.array(z.string()) }),
})

export const keepRevisions = operation('PUT /site/keeping', {
  group,
  needs: 'administer',
  does: 'Says how long revisions are kept, and forgets what is too old or too much. That cannot be taken back.',
  body: z.object(keepingShape),
  example: { days: 730, most: null },
  answer: z.object({ ...keepingShape, forgotten: z.int().describe('Up to which revision they are forgotten.') }),
})

export const handoverPack = operation('GET /site/handover.zip', {
  group,
  needs: 'configure',
  does: 'Everything that somebody who helps from afar needs, in one file, without secrets: configuration, versions, the machine, the state of all, journal, the last path checks, what passed last. Its summary.html opens by itself.',
  query: {
    traffic: z
      .string()
      .regex(/^(none|(link|outlet)-\d{1,9}(,(link|outlet)-\d{1,9})*)$/, '“none”, or links and outlets as in “link-3,outlet-2”.')
      .max(4000, 'At most 4,000 characters.')
      .optional()
      .describe('Of which links and outlets it tells what passed and what clients asked, as in “link-3,outlet-2”; “none”; left out: all.'),
  },
  answer: z.string(),
  as: 'zip',
  engine: true,
})

export const openCase = operation('POST /site/case', {
  group,
  needs: 'administer',
  does: 'Opens a handover pack in an empty copy, to look at the case of another site: its configuration, journal, and what its engine told. The copy is marked, and connected to nothing.',
  body: fileBody,
  size: 'file',
  answer: z.object({ head: caseHead, left: z.array(leftOut).describe('What of the configuration could not be taken.') }),
  faults: ['case.unreadable', 'case.not-empty', 'text.stale', 'text.unreadable'],
})

export const showCase = operation('GET /site/case', {
  group,
  needs: 'look',
  does: 'What a pack tells besides: the machine, the last revisions, and what of it could not be taken.',
  answer: z.object({
    head: caseHead,
    machine: machineFacts,
    revisions: z.array(packRevision),
    left: z.array(leftOut),
    checks: z.array(pathRecord.pick({ of: true, id: true, at: true, outcome: true })).describe('Its path checks, the newest first.'),
  }),
  faults: ['case.none'],
})

export const closeCase = operation('DELETE /site/case', {
  group,
  needs: 'administer',
  does: 'Closes the case: the copy is empty again, and nothing of it can be put back.',
  answer: z.object({ closed: z.literal(true) }),
  faults: ['case.none'],
})

export const siteText = operation('GET /site/text.yaml', {
  group,
  needs: 'look',
  does: 'The configuration as a text (YAML), the whole or a part, without secrets. ./conduit site applies it.',
  query: {
    only: z
      .string()
      .max(200)
      .transform((names) => names.split(','))
      .optional()
      .describe('Lists by their names, with commas between them; all, if absent.'),
    folder: z.string().max(240).optional().describe('Only tags in this folder, at any depth.'),
    link: z.string().max(80).optional().describe('Only tags that read through the link of this name.'),
  },
  answer: z.string(),
  as: 'yaml',
})

const revision = z
  .object({
    number: z.int(),
    at: z.iso.datetime(),
    who: z.string(),
    what: z.string(),
    comment: z.string(),
    things: z.int().describe('How many things it changed.'),
  })
  .meta({ id: 'Revision' })
export type Revision = z.output<typeof revision>

export const listRevisions = operation('GET /revisions', {
  group,
  needs: 'look',
  does: 'Who changed what.',
  query: { ...listQuery(['-number', 'who']), before },
  answer: logPageOf(revision),
})

export const revisionEffect = operation('GET /revisions/{number}/effect', {
  group,
  needs: 'look',
  does: 'What became of a revision in the engine: in force, or which things of it are not, and why. Waits for it a little.',
  answer: effect,
})

/** In which fields a thing differs; null: there is nothing. */
const changedField = z.object({ field: z.string(), before: z.string().nullable(), after: z.string().nullable() })

export const revisionChange = z
  .object({
    subject: z.string().describe('What kind of thing: link, tag, outlet, certificate.'),
    id: z.int(),
    name: z.string(),
    what: z.enum(['made', 'changed', 'removed']),
    fields: z.array(changedField).describe('What differs; secrets only tell that they do.'),
  })
  .meta({ id: 'RevisionChange' })
export type RevisionChange = z.output<typeof revisionChange>

export const listRevisionChanges = operation('GET /revisions/{number}/changes', {
  group,
  needs: 'look',
  does: 'What a revision changed, thing by thing and field by field.',
  query: listQuery(['thing']),
  answer: pageOf(revisionChange),
})

export const takeBackRevisions = operation('POST /revisions/take-back', {
  group,
  needs: 'configure',
  does: 'Undoes several revisions by one new one, unless something of them has changed again since.',
  body: z.object({ numbers: z.array(idField('A revision')).min(1).max(500) }),
  example: { numbers: [12, 14] },
  answer: z.object({ revision: z.int() }),
  faults: ['entry.cannot-take-back'],
})

export const returnToRevision = operation('POST /revisions/{number}/return', {
  group,
  needs: 'configure',
  does: 'Undoes everything that came after a revision, by a new one.',
  answer: z.object({ revision: z.int() }),
  faults: ['entry.cannot-take-back'],
})

export const noteRevision = operation('PUT /revisions/{number}', {
  group,
  needs: 'configure',
  does: 'Says why a revision was made.',
  body: z.object({ comment: lineField('A comment', 500) }),
  example: { comment: 'Meter of berth 2 was exchanged' },
  answer: z.object({ comment: z.string() }),
  faults: ['entry.gone'],
})

export const takeBackRevision = operation('POST /revisions/{number}/take-back', {
  group,
  needs: 'configure',
  does: 'Undoes a revision by a new one, unless something has changed again since.',
  answer: z.object({ revision: z.int() }),
  faults: ['entry.cannot-take-back'],
})

export const tryAgain = operation('POST /try-again', {
  group,
  needs: 'configure',
  does: 'Has the engine try everything again that is not as configured; answers with what still is not.',
  answer: z.object({ notInForce: z.array(notInForce) }),
  engine: true,
})

export const showUpkeep = operation('GET /upkeep', {
  group: goesOn,
  needs: 'look',
  does: 'What somebody has to see to so that the site goes on for years: disks and when they are short, what ends, the last backup, what waits, the clock.',
  answer: upkeepState,
  engine: true,
})

export const settleDatabase = operation('POST /site/database', {
  group,
  needs: 'administer',
  does: 'Decides what becomes of a database that is of an older state than what is in force, or another one, as `heldDatabase` of the status says. “database”: it is taken as it is. “in force”: what is in force comes back into it, as a revision that can be taken back.',
  body: z.object({ take: z.enum(choices) }),
  example: { take: 'in force' },
  answer: z.object({ revision: z.int() }),
  faults: ['site.not-held'],
  engine: true,
})

export const showStatus = operation('GET /status', {
  group: goesOn,
  needs: 'look',
  does: 'Links, outlets and rates, as the engine sees them now.',
  answer: engineStatus,
  engine: true,
})

export const showHealth = operation('GET /health', {
  group: goesOn,
  needs: 'anyone',
  does: 'Whether web, engine and database are there and answer; for watchdogs, load balancers and monitoring. Answers with 503 where the status is “fail”, so that a program need not read it. What there is to be seen to, GET /upkeep tells.',
  answer: z.object({
    status: z
      .enum(['pass', 'warn', 'fail'])
      .describe(
        'fail: no values pass, for the engine does not answer. warn: the database is away or held back, or somebody has to see to something at once.',
      ),
    web: z.boolean(),
    engine: z.boolean(),
    database: z.boolean(),
    leads: z.string().nullable().describe('The machine that leads the site; null: it has one machine, or nobody knows.'),
  }),
})

export const listWrites = operation('GET /writes', {
  group: goesOn,
  needs: 'look',
  does: 'Values that were written to the plant: by whom, what, and what came of it.',
  query: {
    ...listQuery(['-id', 'path', 'who']),
    before,
    tag: numberText(1).pipe(idField('A tag')).optional().describe('Only what was written to this tag.'),
    failed: z.literal('only').optional(),
  },
  answer: logPageOf(listedWrite),
})

export const describeApi = operation('GET /openapi.json', {
  group,
  needs: 'look',
  does: 'This description (OpenAPI 3.1).',
  answer: z.object({ openapi: z.string() }).catchall(z.unknown()),
})
