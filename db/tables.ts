import type { ColumnType, Generated, GeneratedAlways, JSONColumnType } from 'kysely'
import type { Role } from '#core/access/roles'
import type { Fault } from '#core/faults/catalogue'
import type { HistoryKeeping } from '#core/history/settings'
import type { JournalSeverity } from '#core/journal/entry'
import type { JournalKeeping } from '#core/journal/settings'
import type { DeedKind } from '#shared/deeds'
import type { BaseLine } from '#shared/tagCsv/base'
import type { BenchPoint, BenchResult } from '#shared/bench'
import type { TrendContent } from '#shared/trendSet'
import type { NodeDoor } from '#shared/nodes'
import type { AlarmSeverity, AlarmTurn } from '#core/alarms/limits'
import type { Writer } from '#shared/writes'
import type { Subject, SubjectTables } from './subjects'
import type { CheckedTag } from '#core/checks/again'
import type { CheckWay, Outcome } from '#core/checks/state'
import type { CheckEvidence } from '#shared/checks'

/** Every table, as Kysely sees it. Migrations in `migrations/` make them. */
export interface Database extends SubjectTables {
  site: SiteTable
  case_part: CasePartTable
  person: PersonTable
  session: SessionTable
  api_token: ApiTokenTable
  revision: RevisionTable
  change: ChangeTable
  journal: JournalTable
  deed: DeedTable
  written: WrittenTable
  alarm_event: AlarmEventTable
  bench: BenchTable
  watch_list: WatchListTable
  program_base: ProgramBaseTable
  history_series: HistorySeriesTable
  trend_set: TrendSetTable
  wall_link: WallLinkTable
  check_sheet: CheckSheetTable
  check_point: CheckPointTable
  check_result: CheckResultTable
  check_company: CheckCompanyTable
  site_lead: SiteLeadTable
  site_kept: SiteKeptTable
}

/** One row. Its lock puts configuration changes in order. */
export interface SiteTable {
  id: 1
  name: string
  revision: number
  /** How long revisions are kept; null: for ever. */
  keep_days: number | null
  /** How many of them; null: all. */
  keep_revisions: number | null
  /** Up to which they are forgotten. */
  forgotten: Generated<number>
  /** Folders of the engine's machine that an administrator allowed. */
  fileRoots: JSONColumnType<string[]>
  /** By which clock windows of time go, as in Europe/Oslo; empty: by that of the engine's machine. */
  zone: Generated<string>
  /** How long what was recorded is kept; what it does not say is as usual. */
  history: JSONColumnType<Partial<HistoryKeeping>>
  /** Where and how long events are kept; what it does not say is as usual. */
  journal: JSONColumnType<Partial<JournalKeeping>>
  /** Where nodes of this site come in; null: nowhere. */
  nodeDoor: JSONColumnType<NodeDoor> | null
  /** The case of another site that is looked at here; null: none, this is a site of its own. */
  case_of: JSONColumnType<object> | null
}

/** What a handover pack told of a site besides its configuration and its journal: a part of it as JSON. */
export interface CasePartTable {
  name: string
  content: string
}

export interface PersonTable {
  id: Generated<number>
  name: string
  role: Role
  /** argon2 hash. */
  password: string
  must_change: boolean
  on: boolean
  made_at: Generated<Date>
  seen_at: Date | null
}

export interface SessionTable {
  /** SHA-256 of the token in the browser's cookie. */
  hash: string
  person_id: number
  made_at: Generated<Date>
  seen_at: Generated<Date>
  from: string
}

export interface ApiTokenTable {
  id: Generated<number>
  name: string
  hash: string
  role: Role
  made_by: string
  made_at: Generated<Date>
  expires_at: Date
  used_at: Date | null
}

/** A point that a person tries without a tag. */
export interface BenchTable {
  id: Generated<number>
  person_id: number
  point: JSONColumnType<BenchPoint>
  last: JSONColumnType<BenchResult> | null
  made_at: Generated<Date>
}

/** Tags that a person watches; others may look where it is shared. */
export interface WatchListTable {
  id: Generated<number>
  person_id: number
  name: string
  shared: Generated<boolean>
  /** In their order; tags that are gone have no row any more. */
  tags: Generated<number[]>
  made_at: Generated<Date>
}

/** Series that a person draws together; others may look where it is shared. */
export interface TrendSetTable {
  id: Generated<number>
  person_id: number
  name: string
  shared: boolean
  content: JSONColumnType<TrendContent>
  made_at: Generated<Date>
}

/** By which a screen shows one display. */
export interface WallLinkTable {
  id: Generated<number>
  display_id: number
  name: string
  hash: string
  equipment: string
  turn_seconds: number | null
  dark: boolean
  made_by: string
  made_at: Generated<Date>
  expires_at: Date
  used_at: Date | null
}

/** What the file of a program said when it was taken last: its lines by path, with the tag that each became. */
export interface ProgramBaseTable {
  link_id: number
  folder: string
  name: string
  lines: JSONColumnType<BaseLine[]>
  taken_at: Generated<Date>
}

/** A tag that was recorded, by its id; it stays when the tag goes. */
export interface HistorySeriesTable {
  id: number
  path: string
  type: string
  unit: string
  recording: boolean
  since: Date
  /** By which node it is recorded now; empty: by the engine of this site. */
  node: Generated<string>
}

/** What a revision did to one thing. How it was afterwards is what the next change of it found, or what it is now. */
export interface ChangeTable {
  revision: number
  subject: Subject
  thing: number
  what: 'made' | 'changed' | 'removed'
  /** As a row of its table; null: it was made. */
  before: Record<string, unknown> | null
}
export type Change = Pick<ChangeTable, 'subject' | 'thing' | 'what' | 'before'>

export interface RevisionTable {
  number: number
  at: ColumnType<Date, never, never>
  who: string
  what: string
  /** Why, in somebody’s words. */
  comment: Generated<string>
}

/** Points that are checked one by one against the far side. */
export interface CheckSheetTable {
  id: Generated<number>
  name: string
  /** The far side, in somebody’s words. */
  against: string
  note: string
  made_by: string
  made_at: Generated<Date>
  closed_by: string | null
  closed_at: Date | null
  /** SHA-256 of all that was checked when it was closed. */
  digest: string | null
  /** Of what the digest was made: hashes of the sheet and of each point with its checks, by their tags. */
  sealed: JSONColumnType<Record<string, string>> | null
}

/** Who is at which point of a sheet. */
export interface CheckCompanyTable {
  sheet_id: number
  who: string
  tag_id: number
  at: Generated<Date>
}

export interface CheckPointTable {
  sheet_id: number
  tag_id: number
  /** As it was called when it came onto the sheet. */
  path: string
}

/** One check; it is never changed. */
export interface CheckResultTable {
  id: Generated<number>
  sheet_id: number
  tag_id: number
  /** Made where it was checked: what is sent twice counts once. */
  key: string
  /** When it was checked, by the clock of whoever did. */
  at: Date
  received_at: ColumnType<Date, never, never>
  who: string
  way: CheckWay
  expected: string
  seen: string
  outcome: Outcome
  remark: string
  evidence: JSONColumnType<CheckEvidence> | null
  /** What the tag was then. */
  checked: JSONColumnType<CheckedTag>
  revision: number
}

/** One row: which machine of the site leads it. */
export interface SiteLeadTable {
  one: true
  /** Of which run of a machine; null: nobody leads. */
  run: string | null
  node: number | null
  name: string
  fence: number
  beat: number
  since: Date
  renewed: Date
  /** Which node somebody wants to lead. */
  wish: number | null
}

/** What the leading machine keeps on its disk, for the next one. */
export interface SiteKeptTable {
  room: string
  key: string
  value: string
}

export interface JournalTable {
  id: Generated<number>
  at: Date
  severity: JournalSeverity
  source: string
  text: string
  fault: JSONColumnType<Fault> | null
  times: Generated<number>
  /** When it happened last. */
  last_at: Date
  /** Text and source in small letters, for finding words. */
  words: GeneratedAlways<string>
}

/** What people did besides changes of the configuration and writes. */
export interface DeedTable {
  id: Generated<number>
  at: Date
  who: string
  place: string
  kind: DeedKind
  what: string
  ok: boolean
}

export interface AlarmEventTable {
  id: Generated<number>
  at: Date
  tag_id: number
  path: string
  limit: string
  severity: AlarmSeverity
  turn: AlarmTurn
  text: string
  value: string
  who: string
  comment: string
}

export interface WrittenTable {
  id: Generated<number>
  at: Date
  who: string
  via: Writer['via']
  place: string
  tag_id: number | null
  path: string
  before: string | null
  value: string
  ok: boolean
  ms: number
  fault: JSONColumnType<Fault> | null
  /** Null in records from before there were keys. */
  key: string | null
}
