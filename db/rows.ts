import type { Selectable } from 'kysely'
import type { KnownCertificate } from '#shared/certificates'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'
import type { Tag, TagDraft } from '#shared/tags'
import type { CertificateTable, LinkTable, OutletTable, TagTable } from './tables'

/** From rows to the things that the rest of the program speaks of, and back. */

export const asLink = (row: Selectable<LinkTable>): Link => row as unknown as Link
export const asCertificate = (row: Selectable<CertificateTable>): KnownCertificate => row as unknown as KnownCertificate
export const asOutlet = (row: Selectable<OutletTable>): Outlet => row as unknown as Outlet

export const asTag = ({ link_id, ...row }: Selectable<TagTable>): Tag => ({ ...row, linkId: link_id }) as Tag

/** JSON columns go in as text: a driver would turn arrays into PostgreSQL arrays. */
export const tagColumns = ({ linkId, options, scaling, range, ...tag }: TagDraft) => ({
  ...tag,
  link_id: linkId,
  options: JSON.stringify(options),
  scaling: scaling === null ? null : JSON.stringify(scaling),
  range: range === null ? null : JSON.stringify(range),
})
