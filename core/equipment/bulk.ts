import { folderOf } from '../tags/path'
import { Model, type EquipmentOf } from './model'
import { equipmentProblems } from './problems'
import { equipmentContract, type EquipmentDraft } from './settings'
import type { EquipmentSaid } from './table'

/** Many pieces of equipment at once: what is made, changed and refused, before anything is. */

export interface BulkPiece {
  /** Of the table, or of the folders, from 1; 0: it is made because others are part of it. */
  line: number
  /** Its own, where it is there; null: it is new. */
  id: number | null
  draft: EquipmentDraft
  what: 'made' | 'changed' | 'alike' | 'refused'
  problems: { path: string; message: string }[]
}

/**
 * What becomes of each. Whatever others are part of and is not there is made; what is part of something that is refused, is
 * refused as well.
 */
export const bulkPlan = (model: Model, said: readonly EquipmentSaid[]): BulkPiece[] => {
  const pieces = said.map((one) => pieceOf(one, model))
  twice(pieces)
  const all = [...parentsFor(pieces, model), ...pieces]
  for (let wrong = check(all, model); wrong > 0; wrong = check(all, model));
  return all
}

const pieceOf = ({ line, path, fields, constants, bindings, problems }: EquipmentSaid, model: Model): BulkPiece => {
  const known = model.byPath.get(path)
  const { id = null, ...before } = known ?? {}
  const draft = {
    ...before,
    ...{ path, class: '', ...(known ? { class: known.class } : {}), ...fields },
    constants: merged(known?.constants, constants),
    bindings: merged(known?.bindings, Object.fromEntries(Object.entries(bindings).map(([name, of]) => [name, of || null]))),
  }
  const read = equipmentContract.safeParse(draft)
  if (!read.success) {
    const found = read.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
    return {
      line,
      id,
      draft: { ...equipmentContract.parse({ path: 'x', class: '' }), path },
      what: 'refused',
      problems: [...problems, ...found],
    }
  }
  const same = known !== undefined && isAlike(equipmentContract.parse(known), read.data)
  const what = problems.length > 0 ? 'refused' : same ? 'alike' : known ? 'changed' : 'made'
  return { line, id, draft: read.data, what, problems: [...problems] }
}

/** What is said takes the place of what was; null takes it away. */
const merged = <T>(before: Record<string, T> = {}, said: Record<string, T | null>): Record<string, T> =>
  Object.fromEntries(Object.entries({ ...before, ...said }).filter((entry): entry is [string, T] => entry[1] !== null))

const twice = (pieces: readonly BulkPiece[]) => {
  const first = new Map<string, number>()
  for (const piece of pieces) {
    const key = piece.draft.path.toLowerCase()
    const before = first.get(key)
    if (before === undefined) first.set(key, piece.line)
    else refuse(piece, { path: 'path', message: `Line ${before} has it already.` })
  }
}

/** Places that are named only because something is part of them. */
const parentsFor = (pieces: readonly BulkPiece[], model: Model): BulkPiece[] => {
  const there = new Set([...model.byPath.keys(), ...pieces.map(({ draft }) => draft.path)])
  const parents: BulkPiece[] = []
  for (const { draft, what } of pieces) {
    if (what === 'refused') continue
    for (let path = folderOf(draft.path); path !== '' && !there.has(path); path = folderOf(path)) {
      there.add(path)
      const read = equipmentContract.safeParse({ path, class: '' })
      if (read.success) parents.push({ line: 0, id: null, draft: read.data, what: 'made', problems: [] })
    }
  }
  return parents.sort((a, b) => (a.draft.path < b.draft.path ? -1 : 1))
}

/** Refuses what does not go with the rest as it would be. @returns how many more are refused */
const check = (pieces: readonly BulkPiece[], model: Model): number => {
  const taken = pieces.filter(({ what }) => what !== 'refused')
  const next = new Map<number, EquipmentOf>(model.equipment)
  // new ones have numbers that nothing else has
  const idOf = (piece: BulkPiece, i: number) => piece.id ?? -1 - i
  taken.forEach((piece, i) => next.set(idOf(piece, i), { ...piece.draft, id: idOf(piece, i) }))
  const after = new Model(model.classes.values(), next.values())
  let refused = 0
  taken.forEach((piece, i) => {
    if (piece.what === 'alike') return
    const problems = equipmentProblems(piece.draft, idOf(piece, i), after)
    for (const problem of problems) refuse(piece, problem)
    if (problems.length > 0) refused++
  })
  return refused
}

const refuse = (piece: BulkPiece, problem: BulkPiece['problems'][number]) => {
  piece.what = 'refused'
  piece.problems.push(problem)
}

const isAlike = (a: EquipmentDraft, b: EquipmentDraft) => JSON.stringify(inOrder(a)) === JSON.stringify(inOrder(b))
const sorted = (record: Record<string, unknown>) => Object.entries(record).sort(([a], [b]) => (a < b ? -1 : 1))
const inOrder = ({ path, class: of, level, description, relations, constants, bindings }: EquipmentDraft) => [
  path,
  of,
  level,
  description,
  relations,
  sorted(constants),
  sorted(bindings),
]
