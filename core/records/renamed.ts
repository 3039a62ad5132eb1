import { renamedIn } from '../bridges/renamed'
import type { RecordSetDraft } from './settings'

type Named = Pick<RecordSetDraft, 'folder' | 'how'>

/** A set, once what its folder and its statement name is called otherwise. */
export const renamedSet = ({ folder, how }: Named, nowCalled: (path: string) => string): Named => {
  if (how.kind !== 'query') return { folder: nowCalled(folder), how }
  const { when } = renamedIn({ when: how.when, take: [], send: [] }, nowCalled)
  const take = how.take.map((one) => ({ ...one, path: nowCalled(one.path) }))
  return { folder: nowCalled(folder), how: { ...how, take, when: when as typeof how.when } }
}
