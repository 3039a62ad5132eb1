import type { Selectable } from 'kysely'
import type { KnownCertificate } from '#shared/certificates'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'
import type { Tag, TagDraft } from '#shared/tags'
import { subjects, type Subject, type ThingOf } from './subjects'
import type { CertificateTable, LinkTable, OutletTable, TagTable } from './tables'

/** A row that does not keep its contract: written by another version, or by hand. */
export class UnreadableRow extends Error {
  constructor(
    readonly thing: Subject,
    readonly id: number,
    readonly named: string,
    readonly problem: string,
  ) {
    super(`${thing} ${id} “${named}” cannot be read: ${problem}`)
  }
}

const readOrThrow = <S extends Subject>(subject: S, row: unknown): ThingOf[S] => {
  const read = subjects[subject].read(row)
  if (read.ok) return read.thing
  throw new UnreadableRow(subject, read.id, read.name, read.problem)
}

/** From rows to the things that the rest of the program speaks of, by their contracts. */
export const asLink = (row: Selectable<LinkTable>): Link => readOrThrow('link', row)
export const asCertificate = (row: Selectable<CertificateTable>): KnownCertificate => readOrThrow('certificate', row)
export const asOutlet = (row: Selectable<OutletTable>): Outlet => readOrThrow('outlet', row)
export const asTag = (row: Selectable<TagTable>): Tag => readOrThrow('tag', row)

/** Of many rows, those that can be read: one that cannot be must not hide the others. The engine's status names it. */
export const readable = <R, T>(rows: readonly R[], read: (row: R) => T): T[] =>
  rows.flatMap((row) => {
    try {
      return [read(row)]
    } catch (error) {
      if (error instanceof UnreadableRow) return []
      throw error
    }
  })

/** JSON columns go in as text: a driver would turn arrays into PostgreSQL arrays. */
export const tagColumns = ({ linkId, options, scaling, range, ...tag }: TagDraft) => ({
  ...tag,
  link_id: linkId,
  options: JSON.stringify(options),
  scaling: scaling === null ? null : JSON.stringify(scaling),
  range: range === null ? null : JSON.stringify(range),
})
