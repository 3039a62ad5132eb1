import { classProblems, equipmentProblems } from '#core/equipment/problems'
import type { ClassDraft, EquipmentDraft } from '#core/equipment/settings'
import type { Editor } from '#db/editor'
import { invalid } from '../answers/checked'
import { modelNow } from './model'

/** Refuses a class that is not sound. @param before what it is called where it is saved; null: it is new */
export const requireSoundClass = async (db: Pick<Editor['db'], 'selectFrom'>, draft: ClassDraft, before: string | null, prefix = '') => {
  const problems = classProblems(draft, before, await modelNow(db))
  if (problems.length > 0) throw invalid(problems.map(({ path, message }) => ({ path: prefix + path, message })))
}

/** Refuses equipment that is not sound. @param id its own, where it is saved */
export const requireSoundEquipment = async (
  db: Pick<Editor['db'], 'selectFrom'>,
  draft: EquipmentDraft,
  id: number | null,
  prefix = '',
) => {
  const problems = equipmentProblems(draft, id, await modelNow(db))
  if (problems.length > 0) throw invalid(problems.map(({ path, message }) => ({ path: prefix + path, message })))
}
