import { recordSetContract, type How, type RecordSetDraft, type SetKind } from '#core/records/settings'

/** Sets as they are before anything is typed. */

const blanks: { [K in SetKind]: object } = {
  snapshot: { kind: 'snapshot', from: { kind: 'table', table: 'x' } },
  cursor: { kind: 'cursor', from: { kind: 'table', table: 'x' }, key: 'x' },
  procedure: { kind: 'procedure', routine: 'x' },
  query: { kind: 'query', statement: 'x' },
}

const blankHow = (kind: SetKind): How => {
  const { how } = recordSetContract.parse({ name: 'x', linkId: 1, folder: 'x', how: blanks[kind] })
  if (how.kind === 'snapshot' || how.kind === 'cursor') how.from = { kind: 'table', schema: '', table: '' }
  if (how.kind === 'cursor') how.key = ''
  if (how.kind === 'procedure') how.routine = ''
  if (how.kind === 'query') how.statement = ''
  return how
}

export const blankSet = (kind: SetKind, linkId: number): RecordSetDraft => ({
  name: '',
  linkId,
  on: true,
  folder: '',
  nulls: null,
  how: blankHow(kind),
})

/** A name for a folder: `Vessel call book` is `vessel_call_book`. */
export const folderName = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_|_$/g, '')
