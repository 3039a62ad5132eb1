import type { Fault } from '#core/faults/catalogue'
import type { Page } from '#core/lists/paged'
import type { Acknowledged, Alarm, AlarmsAsked, AlarmsMatching } from './alarms'
import type { OwnCertificateFacts } from './certificates'
import type { AnyFound } from './links/found'
import type { Endpoint } from '#core/endpoints/settings'
import type { ModelPlan } from './outlets/cloudPlatformStatus'
import type { EndpointOutcome } from './outlets/endpointTrial'
import type { CallOutcome } from './links/webCall'
import type { UnclaimedStatus } from './arrivals'
import type { BenchPoint, BenchReading, BlockNow } from './bench'
import type { BridgeDraft } from '#core/bridges/settings'
import type { RecordSetDraft } from '#core/records/settings'
import type { RecordSetPreview } from './records/recordSet'
import type { RecordSetStatus } from './records/status'
import type { NewTable } from '#core/sql/createTable'
import type { BridgePreview, RefusedRecord, RefusedValue, SampleMessage, SettledRecords } from './bridges/preview'
import type { BridgeRun } from './bridges/status'
import type { ListedTable, TableColumn, TablePlace } from './links/tables'
import type { Children, Place, PlaceDetails } from './browse'
import type { JournalApi } from './journalApi'
import type { MeasuringApi } from './measuringApi'
import type { NodesApi } from './nodesApi'
import type { PairingApi } from './pairingApi'
import type { Link, LinkDraft } from './links/link'
import type { Severity } from '#core/tags/quality'
import type { Finding } from './notes'
import type { TagTrend } from './watch'
import type { Priorities } from './links/priorities'
import type { SensorOffer, SensorPortFound } from './links/sensorPorts'
import type { MachinePort } from './serialPorts'
import type { Writer } from './writes'
import type { PartExperience } from '#core/links/load'
import type { PointDefinition } from '#core/links/protocol'
import type { PathKind, PathRecord } from './diagnosis'
import type { CaseFacts } from './handover'
import type { TrafficPart } from './traffic'
import type { Effect, EngineStatus, NotInForce } from './status'
import type { LiveValue, ValueOrigin, WriteResult } from './values'
import type { CheckEvidence } from './checks'
import type { Choice } from './heldDatabase'
import type { UpkeepState } from './upkeep'

export type Answer<T> = { ok: true; value: T } | { ok: false; fault: Fault }

/** What the web side may ask of the engine. */
export interface EngineApi extends JournalApi, MeasuringApi, PairingApi, NodesApi {
  status(): EngineStatus
  /** What became of a saved revision; waits for it up to so many milliseconds. */
  effect(revision: number, waitMs: number): Promise<Effect>
  /** Tries everything again that is not as configured; answers with what still is not. */
  tryAgain(): Promise<NotInForce[]>
  /** What somebody has to see to so that the site goes on for years. */
  upkeep(): Promise<UpkeepState>
  /** Decides what becomes of a database that is no continuation of what is in force; null: it is one. */
  settleDatabase(choice: Choice, who: string): Promise<{ revision: number } | null>
  /** Walks from the name to the first reply; its steps arrive through `part`, in order. */
  check(id: string, draft: LinkDraft, linkId: number | null): Promise<void>
  /** The path of a thing as it is. @param entry of an outlet: one of its entries; null: all of them */
  walkPath(work: string, of: PathKind, id: number, entry: number | null): Promise<Answer<null>>
  /** The machine, the state of everything, the last checks and what passed last, for a handover pack. */
  caseFacts(): Promise<CaseFacts>
  /** The last checks of a path, the newest first. */
  pathRecords(of: PathKind, id: number): Answer<PathRecord[]>
  /** Asks the far side which ways in it offers. */
  find(draft: LinkDraft): Promise<Answer<AnyFound>>
  callOnce(draft: LinkDraft, operation: string, given: Record<string, string>): Promise<Answer<CallOutcome>>
  /** A file of a program below an allowed folder; its text is null where it is as it was seen. */
  programFile(of: { root: string; file: string }, seen: number | null): Promise<{ changedAt: number; text: string | null } | Fault>
  /** Fetches a document from a web API, or from beside it. */
  fetchText(draft: LinkDraft, address: string): Promise<Answer<string>>
  /** Tries at once what a link waits with because it failed. */
  tryLinkNow(linkId: number, unit: string | null): Answer<null>
  /** Reads an address once, without making a tag. */
  tryRead(link: Link, point: PointDefinition): Promise<ValueOrigin>
  /** What points have that are tried without a tag. They are read over and over as long as somebody asks. */
  benchNow(points: (BenchPoint & { id: number })[], open: number | null): BenchReading[]
  /** What registers held since somebody first asked, at most some minutes ago. */
  benchBlock(linkId: number, addresses: string[], interval: number): BlockNow
  /** Writes to a point that no tag covers. */
  benchWrite(point: BenchPoint, value: boolean | number | string, by: Writer): Promise<WriteResult>
  /** How tags went in the last minutes, from a second on; they are followed from the first time that somebody asks. */
  trends(ids: number[], after: number): TagTrend[]
  /** Addresses that stay true whatever the far side renumbers; null for those that it cannot tell now. */
  lasting(linkId: number, addresses: string[]): (string | null)[]
  browse(linkId: number, place: Place): Promise<Answer<Children>>
  details(linkId: number, places: Place[]): Promise<Answer<PlaceDetails[]>>
  /** What passed at the connections of a link or outlet, from frame `after` on; null: from now on. */
  traffic(of: 'link' | 'outlet', id: number, after: number | null, most: number): Answer<TrafficPart>
  /** Messages of a link that nobody claims. */
  unclaimed(of: 'link' | 'outlet', id: number): Answer<UnclaimedStatus>
  /** The serial ports of a machine. @param node null: of the engine’s */
  serialPorts(node: number | null): Promise<MachinePort[] | Answer<never>>
  sensorPorts(linkId: number): Answer<SensorPortFound[]>
  /** What the device at a port offers to become tags. */
  sensorOffer(linkId: number, port: number): Promise<Answer<SensorOffer>>
  /** What they find arrives through `part`. */
  search(id: string, linkId: number, text: string): Promise<Answer<null>>
  branch(id: string, linkId: number, place: Place): Promise<Answer<null>>
  /** Ends a check, a search or a walk through a branch. */
  stop(id: string): void
  own(): OwnCertificateFacts
  replaceOwn(certificate: string, key: string): Promise<Answer<OwnCertificateFacts>>
  renewOwn(): Promise<OwnCertificateFacts>
  priorities(tagId: number): Promise<Answer<Priorities>>
  release(tagId: number, by: Writer): Promise<WriteResult>
  write(tagId: number, value: boolean | number | string, by: Writer): Promise<WriteResult>
  /** What the far sides refuse, or have otherwise than tags say. */
  findings(): Finding[]
  /** What was seen of each part of a link while it was asked. */
  experience(linkId: number): Record<string, PartExperience>
  /** The tags whose value is of this quality now. */
  ofQuality(severity: Severity): number[]
  /** What these tags have now; those that are not there are left out. */
  valuesOf(ids: number[]): LiveValue[]
  /** Which tags the viewer has on screen, and of which it shows how the value is made; replaces what it watched before. */
  watch(viewer: string, tagIds: number[], origin: number | null): void
  leave(viewer: string): void
  /** How a tag is at this moment, with the frames that brought its value; waits a few seconds for it to be read anew. */
  evidence(tagId: number): Promise<Answer<CheckEvidence>>
  /** What a bridge would send now. */
  previewBridge(draft: BridgeDraft, bridgeId: number | null, message: SampleMessage | null): Promise<BridgePreview>
  /** Runs a bridge once; its number. */
  runBridge(id: number): Promise<Answer<number>>
  bridgeRuns(id: number): Answer<BridgeRun[]>
  refusedRecords(id: number): Promise<Answer<RefusedRecord[]>>
  mendRefused(id: number, key: string, values: RefusedValue[]): Promise<Answer<null>>
  settleRefused(id: number, keys: string[], then: 'send' | 'drop'): Promise<Answer<SettledRecords>>
  tables(linkId: number): Promise<Answer<ListedTable[]>>
  table(linkId: number, place: TablePlace & { procedure: boolean }): Promise<Answer<TablePlace & { columns: TableColumn[] }>>
  createTable(linkId: number, table: NewTable, run: boolean): Promise<Answer<string[]>>
  /** The rows that a record set would begin with, and its tags. */
  previewRecordSet(
    draft: RecordSetDraft,
    setId: number | null,
    run: Record<string, boolean | number | string> | null,
  ): Promise<Answer<RecordSetPreview>>
  readRecordSet(id: number): Promise<Answer<RecordSetStatus>>
  /** Answers an endpoint of an HTTP server once as it is drawn. */
  tryEndpoint(endpoint: Endpoint, tried: { given: Record<string, string>; body: string }): Promise<EndpointOutcome>
  /** What is to be done at a platform so that its model is ours. */
  modelPlan(outletId: number, readAgain: boolean): Promise<Answer<ModelPlan>>
  /** Carries out the plan that somebody saw. */
  applyModel(outletId: number, seen: string, removing: boolean): Promise<Answer<ModelPlan>>
  /** A page of what is active or not acknowledged. */
  alarms(asked: AlarmsAsked): Page<Alarm>
  acknowledgeAlarms(which: string[] | AlarmsMatching, who: string, comment: string): Acknowledged
  /** Whether there is such an alarm. */
  commentAlarm(key: string, who: string, text: string): boolean
  disconnectClient(outletId: number, clientId: string): boolean
}

/** What the engine tells the web side. `deliver` resolves once the page has taken the values. */
export interface WebApi {
  /** One part of what a check, a search or a walk through a branch brings. */
  part(id: string, part: unknown): void
  deliver(viewer: string, values: LiveValue[], origin: { tag: number; origin: ValueOrigin | null } | null): Promise<void>
}

/** Messages between a page and the web side. */
export type PageMessage = { say: 'watch'; tags: number[]; origin: number | null } | { say: 'taken'; batch: number }

export type LiveMessage =
  /** What was so at one moment: values, and how one of them is made. */
  | { say: 'values'; batch: number; values: LiveValue[]; origin: { tag: number; origin: ValueOrigin | null } | null }
  | { say: 'status'; status: EngineStatus | null }
  | { say: 'changed'; revision: number }
