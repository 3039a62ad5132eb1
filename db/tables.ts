import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { Fault } from '#core/faults/catalogue'
import type { LinkKind } from '#core/links/registry'
import type { KnownCertificate } from '#shared/certificates'
import type { OutletKind } from '#shared/outlets/outlet'
import type { TagDraft } from '#shared/tags'

/** Every table, as Kysely sees it. Migrations in `migrations/` make them. */
export interface Database {
  site: SiteTable
  link: LinkTable
  tag: TagTable
  outlet: OutletTable
  certificate: CertificateTable
  revision: RevisionTable
  journal: JournalTable
}

/** One row. Its lock puts configuration changes in order. */
export interface SiteTable {
  id: 1
  name: string
  revision: number
}

export interface LinkTable {
  id: Generated<number>
  name: string
  kind: LinkKind
  on: boolean
  settings: JSONColumnType<Record<string, unknown>>
  revision: number
}

export interface TagTable {
  id: Generated<number>
  path: string
  link_id: number
  address: string
  type: TagDraft['type']
  options: JSONColumnType<TagDraft['options']>
  access: TagDraft['access']
  interval: number | null
  scaling: JSONColumnType<{ gain: number; offset: number }> | null
  unit: string
  description: string
  revision: number
}

export interface OutletTable {
  id: Generated<number>
  name: string
  kind: OutletKind
  on: boolean
  settings: JSONColumnType<Record<string, unknown>>
  revision: number
}

export interface CertificateTable {
  id: Generated<number>
  fingerprint: string
  name: string
  verdict: KnownCertificate['verdict']
  der: string
  despite: JSONColumnType<KnownCertificate['despite']>
  revision: number
}

export type Subject = 'link' | 'tag' | 'outlet' | 'certificate'

/** One thing before and after a change, as a row of its table; null: it was not, or is no more, there. */
export interface Change {
  subject: Subject
  id: number
  before: Record<string, unknown> | null
  after: Record<string, unknown> | null
}

export interface RevisionTable {
  number: number
  at: ColumnType<Date, never, never>
  who: string
  what: string
  changes: JSONColumnType<Change[]>
}

export type JournalSeverity = 'note' | 'caution' | 'trouble'

export interface JournalTable {
  id: Generated<number>
  at: Date
  severity: JournalSeverity
  source: string
  text: string
  fault: JSONColumnType<Fault> | null
}
