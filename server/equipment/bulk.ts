import { createHash } from 'node:crypto'
import { sql } from 'kysely'
import { bulkPlan, type BulkPiece } from '#core/equipment/bulk'
import { equipmentFromFolders } from '#core/equipment/fromFolders'
import type { Model } from '#core/equipment/model'
import { mostPieces, readEquipment, type EquipmentSaid } from '#core/equipment/table'
import { fault } from '#core/faults/catalogue'
import { passedOnType } from '#core/tags/types'
import type { Editor } from '#db/editor'
import { thingsOf } from '#db/rows'
import type { BulkPlanShown, BulkSource } from '#shared/equipment/equipment'
import { isFrom } from '#shared/sources/registry'
import { Refusal } from '../answers/refusal'
import { followTags, modelNow } from './model'

type Reading = Pick<Editor['db'], 'selectFrom'>

/** What becomes of many pieces of equipment, as the site is now. */
export const bulkNow = async (db: Reading, from: BulkSource): Promise<{ model: Model; pieces: BulkPiece[]; digest: string }> => {
  const model = await modelNow(db)
  const pieces = bulkPlan(model, from.kind === 'table' ? saidBy(from.text, model) : await foldersOf(db, from, model))
  const digest = createHash('sha256')
    .update(JSON.stringify(pieces.map(({ id, what, draft }) => [id, what, draft])))
    .digest('base64url')
  return { model, pieces, digest }
}

const saidBy = (text: string, model: Model): EquipmentSaid[] => {
  const read = readEquipment(text, model)
  if (!read.ok) throw new Refusal(fault('equipment.table', { line: read.line, problem: read.problem }))
  return read.said
}

const foldersOf = async (db: Reading, from: BulkSource & { kind: 'folders' }, model: Model): Promise<EquipmentSaid[]> => {
  const [start = ''] = from.pattern.split('*')
  const rows = await db.selectFrom('tag').selectAll().orderBy('path').execute()
  const tags = thingsOf('tag', rows).filter((tag) => tag.path.startsWith(start) && !isFrom('property', tag))
  const candidates = tags.map(({ path, type, unit, scaling }) => ({ path, unit, type: passedOnType(type, scaling !== null) }))
  return equipmentFromFolders(from, candidates, model).slice(0, mostPieces)
}

export const shownPlan = async (db: Reading, { model, pieces, digest }: Awaited<ReturnType<typeof bulkNow>>): Promise<BulkPlanShown> => {
  const absent = await absentTags(db, model, pieces)
  const inputsOf = (name: string) => model.propertiesOf(name).filter(({ made }) => made.kind === 'input')
  const of = (what: BulkPiece['what']) => pieces.filter((piece) => piece.what === what)
  return {
    digest,
    ...{ made: of('made').length, changed: of('changed').length, alike: of('alike').length, refused: of('refused').length },
    tags: of('made').reduce((total, { draft }) => total + model.propertiesOf(draft.class).length, 0),
    pieces: pieces.map(({ line, draft, what, problems }) => {
      const inputs = inputsOf(draft.class)
      const bound = inputs.filter(({ name }) => draft.bindings[name]).length
      const missing = Object.values(draft.bindings).filter((path) => absent.has(path))
      return { line, path: draft.path, class: draft.class, what, inputs: inputs.length, bound, absent: missing, problems }
    }),
  }
}

/** What inputs are bound to, and is no tag, nor becomes one by the plan: it may come later, or be called otherwise. */
const absentTags = async (db: Reading, model: Model, pieces: readonly BulkPiece[]): Promise<Set<string>> => {
  const wanted = [...new Set(pieces.flatMap(({ draft }) => Object.values(draft.bindings)))].filter((path) => path !== '')
  if (wanted.length === 0) return new Set()
  const found = await db
    .selectFrom('tag')
    .select('path')
    .where(sql<boolean>`path = any(${wanted})`)
    .execute()
  const made = pieces.flatMap(({ draft }) => model.propertiesOf(draft.class).map(({ name }) => `${draft.path}/${name}`))
  const there = new Set([...found.map(({ path }) => path), ...made])
  return new Set(wanted.filter((path) => !there.has(path)))
}

/** Makes and changes them, with their tags. */
export const applyBulk = async (editor: Editor, pieces: readonly BulkPiece[]) => {
  const of = (what: BulkPiece['what']) => pieces.filter((piece) => piece.what === what)
  await editor.insertUnseen(
    'equipment',
    of('made').map(({ draft }) => draft),
  )
  await editor.updateUnseen(
    'equipment',
    of('changed').map(({ id, draft }) => ({ id: id!, ...draft })),
  )
  await followTags(editor)
}
