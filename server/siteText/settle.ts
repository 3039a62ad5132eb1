import { bridgeProblems } from '#core/bridges/problems'
import { Model } from '#core/equipment/model'
import { classProblems, equipmentProblems } from '#core/equipment/problems'
import { setProblems } from '#core/records/problems'
import { protocolOf } from '#core/links/registry'
import type { Given } from '#db/siteText/plan'
import type { Things } from '#db/siteText/write'
import type { DraftOf, Subject, ThingOf } from '#db/subjects'
import { certificateFacts } from '#security/certificateFacts'
import type { FieldMessage } from '#shared/faults'
import { mapSecrets } from '#shared/secrets'
import { circlesIn, circleText } from '#shared/sources/circles'
import { readPaths, settled, tagProblems } from '#shared/sources/registry'
import { outletSavingOf } from '../outlets/kinds/registry'

type Settle<S extends Subject> = (
  draft: DraftOf[S],
  before: ThingOf[S] | undefined,
  after: Things,
) => { draft: DraftOf[S]; problems: FieldMessage[] }

/** What saving a thing of a subject looks at besides its contract, where that is anything. */
const settles: { [S in Subject]?: Settle<S> } = {
  certificate: (draft) => ({
    draft,
    problems: isOwnPrint(draft) ? [] : [{ path: 'der', message: 'The certificate has another fingerprint.' }],
  }),
  link: (draft, before) => ({ draft, problems: before ? [...kindProblems('link', draft, before), ...movedSecrets(draft, before)] : [] }),
  tag: (draft, _before, after) => {
    const links = linksIn(after)
    const way = readPaths(draft.source).length > 0 ? circlesOf(after).get(draft.path) : undefined
    const problems = [...tagProblems(draft, (id) => links.get(id)), ...(way ? [{ path: 'source.inputs', message: circleText(way) }] : [])]
    return { problems, draft: problems.length > 0 ? draft : settled(draft, (id) => links.get(id)) }
  },
  outlet: (draft, before, after) => {
    const others = after.outlet.filter(({ name }) => name !== draft.name)
    const problems = outletSavingOf(draft.kind).problems(draft.settings, others, [...linksIn(after).values()])
    return { draft, problems: before ? [...kindProblems('outlet', draft, before), ...problems] : problems }
  },
  recordSet: (draft, before, after) => {
    const others = after.recordSet.filter(({ id, name }) => (before ? id !== before.id : name !== draft.name))
    return { draft, problems: setProblems(draft, { link: (id) => linksIn(after).get(id), others }) }
  },
  bridge: (draft, _before, after) => {
    const known = { link: (id: number) => linksIn(after).get(id), outlet: (id: number) => after.outlet.find((one) => one.id === id) }
    return { draft, problems: bridgeProblems(draft, known) }
  },
  equipmentClass: (draft, _before, after) => ({ draft, problems: classProblems(draft, draft.name, modelIn(after)) }),
  equipment: (draft, _before, after) => ({ draft, problems: equipmentProblems(draft, pieceIn(after, draft.path), modelIn(after)) }),
}

export const settle: Given['settled'] = (subject, draft, before, after) =>
  (settles[subject] as Settle<typeof subject> | undefined)?.(draft, before, after) ?? { draft, problems: [] }

const isOwnPrint = ({ der, fingerprint }: DraftOf['certificate']) => {
  try {
    return certificateFacts(Buffer.from(der, 'base64')).fingerprint.toLowerCase() === fingerprint.toLowerCase()
  } catch {
    return false
  }
}

const kindProblems = (thing: string, draft: { kind: string }, before: { kind: string }): FieldMessage[] =>
  draft.kind === before.kind
    ? []
    : [{ path: 'kind', message: `This ${thing} is of the kind ${before.kind} and stays that; give the new one another name.` }]

/** A kept secret goes where it went before, and no less protected. */
const movedSecrets = (draft: DraftOf['link'], before: ThingOf['link']): FieldMessage[] => {
  const kept: string[] = []
  mapSecrets(draft.settings, (secret, { path }) => {
    if (!('plain' in secret)) kept.push(path)
    return secret
  })
  const why = kept.length > 0 && draft.kind === before.kind ? protocolOf(draft.kind).whyNotKept(before.settings, draft.settings) : null
  return why === null ? [] : kept.map((path) => ({ path: `settings.${path}`, message: why }))
}

const known = new WeakMap<Things, Map<number, ThingOf['link']>>()
const linksIn = (after: Things) => {
  const links = known.get(after) ?? new Map(after.link.map((link) => [link.id, link]))
  known.set(after, links)
  return links
}

const models = new WeakMap<Things, Model>()
const modelIn = (after: Things) => {
  const model = models.get(after) ?? new Model(after.equipmentClass, after.equipment)
  models.set(after, model)
  return model
}

const pieces = new WeakMap<Things, Map<string, number>>()
const pieceIn = (after: Things, path: string) => {
  const ids = pieces.get(after) ?? new Map(after.equipment.map((piece) => [piece.path, piece.id]))
  pieces.set(after, ids)
  return ids.get(path) ?? null
}

const circles = new WeakMap<Things, Map<string, string[]>>()
const circlesOf = (after: Things) => {
  const found =
    circles.get(after) ??
    circlesIn(
      after.tag,
      after.tag.map(({ path }) => path),
    )
  circles.set(after, found)
  return found
}
