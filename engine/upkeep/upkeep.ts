import type { Kysely } from 'kysely'
import { inOrder, type Concern } from '#core/upkeep/concern'
import { markOf, stageOf, type Stage } from '#core/upkeep/disks'
import type { Ending } from '#core/upkeep/endings'
import { concernsIn, type UpkeepFacts } from '#core/upkeep/judge'
import type { Database } from '#db/tables'
import type { NodeStatus } from '#shared/nodes'
import type { UpkeepState } from '#shared/upkeep'
import type { Engine } from '../engine'
import type { JournalWriter } from '../journal/journal'
import type { OwnCertificate } from '#security/ownCertificate'
import type { SiteAuthority } from '#security/siteAuthority'
import { DiskWatch } from './diskWatch'
import { ageOf, authorityEnding, keysEndings, lastBackupIn, ownEnding, trustedEndings, type LastBackup } from './known'
import { SiteClock } from './siteClock'

const judgeEveryMs = 15_000
const askEveryMs = 600_000
const historyRoom = 4 * 1024 ** 3
const mb = 1024 * 1024

interface Around {
  stateFolder: string
  db: Kysely<Database>
  engine: Engine
  journal: JournalWriter
  own: Pick<OwnCertificate, 'pem'>
  authority: Pick<SiteAuthority, 'pem'>
  /** Whether the database is on this machine, and gives back what is dropped. */
  isOwnDatabase: boolean
}

interface FromDatabase {
  keys: Ending[]
  revision: number
  isNew: boolean
  databaseBytes: number
}

/** Looks after what makes a site stop after months: told long before, in one list, and in the journal as it comes and goes. */
export class Upkeep {
  private concerns: Concern[] = []
  private since = new Map<string, number>()
  private disk: DiskWatch
  private clock: SiteClock
  private known: FromDatabase | null = null
  private backup: LastBackup | null = null
  private timers: NodeJS.Timeout[]

  constructor(private around: Around) {
    const { stateFolder, journal } = around
    this.disk = new DiskWatch(stateFolder, (stage) => this.turned(stage))
    this.clock = new SiteClock(stateFolder, journal)
    this.timers = [setInterval(() => void this.judge(), judgeEveryMs), setInterval(() => void this.ask(), askEveryMs)]
    for (const timer of this.timers) timer.unref()
  }

  async start() {
    await Promise.all([this.disk.look(), this.ask()])
    await this.judge()
  }

  /** How many there are, for the status. */
  counts() {
    const now = this.concerns.filter(({ urgency }) => urgency === 'now').length
    return { now, soon: this.concerns.length - now }
  }

  /** Everything anew, for whoever looks. */
  async state(): Promise<UpkeepState> {
    await Promise.all([this.disk.look(), this.ask()])
    await this.judge()
    const { disk, backup, known } = this
    return {
      concerns: this.concerns.map((concern) => ({ ...concern, since: this.since.get(concern.key)! })),
      disks: disk.facts
        ? [
            {
              ...{ name: disk.folder, ...disk.facts, stage: disk.stage, shortAt: disk.shortAt },
              marks: {
                low: markOf('low', disk.facts.bytes),
                short: markOf('short', disk.facts.bytes),
                critical: markOf('critical', disk.facts.bytes),
              },
            },
          ]
        : [],
      databaseBytes: known?.databaseBytes ?? null,
      waitingBytes: this.around.engine.history.status().waitingBytes + this.bridgeQueues().reduce((sum, { bytes }) => sum + bytes, 0),
      endings: this.endings().sort((a, b) => a.until - b.until),
      backup: backup && { ...backup, revisionsSince: Math.max(0, (known?.revision ?? backup.revision) - backup.revision) },
      clockSet: this.clock.lastSet,
    }
  }

  async close() {
    for (const timer of this.timers) clearInterval(timer)
    this.disk.close()
    await this.clock.close()
  }

  /** What only the database knows; while it is away, what it said last. */
  private async ask() {
    const { db, stateFolder } = this.around
    this.backup = await lastBackupIn(stateFolder)
    const [keys, age] = await Promise.all([keysEndings(db), ageOf(db)]).catch(() => [null, null])
    if (keys && age) this.known = { keys, ...age }
  }

  private async judge() {
    this.backup = await lastBackupIn(this.around.stateFolder)
    const found = inOrder(concernsIn(this.facts()))
    this.tell(found)
    this.concerns = found
  }

  private tell(found: readonly Concern[]) {
    const { journal } = this.around
    const present = new Set(found.map(({ key }) => key))
    for (const { key, fault, urgency } of found) {
      if (this.since.has(key)) continue
      this.since.set(key, Date.now())
      // the clock, and what becomes of a disk, is told as it happens
      if (key.startsWith('clock') || fault.code === 'disk.short' || fault.code === 'disk.critical') continue
      if (urgency === 'now') journal.trouble('Upkeep', fault.what, fault)
      else journal.caution('Upkeep', fault.what, fault)
    }
    for (const { key } of this.concerns) if (!present.has(key)) this.since.delete(key)
  }

  private facts(): UpkeepFacts {
    const { disk, clock, backup, known } = this
    const { engine, isOwnDatabase } = this.around
    const isThere = disk.facts !== null
    const drops = isOwnDatabase && engine.wanted.site.history.whenShort === 'drop'
    return {
      now: Date.now(),
      disks: [
        ...(isThere ? [{ ...disk.facts!, name: disk.folder, stage: disk.stage, shortAt: disk.shortAt, isOurs: true, drops }] : []),
        ...nodeDisks(engine.status().nodes),
      ],
      endings: this.endings(),
      backup:
        !known || (known.isNew && !backup) || engine.wanted.site.isCase
          ? null
          : { lastAt: backup?.at ?? null, revisionsSince: Math.max(0, known.revision - (backup?.revision ?? 0)) },
      clockSet: clock.lastSet,
      queues: [...this.bridgeQueues(), this.historyQueue()],
    }
  }

  private endings(): Ending[] {
    const { own, authority, engine } = this.around
    const { node, certificate } = engine.wanted.things
    return [
      ownEnding(own.pem),
      ...(node.size > 0 ? [authorityEnding(authority.pem)] : []),
      ...trustedEndings(certificate.values()),
      ...(this.known?.keys ?? []),
    ]
  }

  private bridgeQueues() {
    const { engine } = this.around
    return engine.bridges.status().flatMap(({ id, destinations }) => {
      const bridge = engine.wanted.things.bridge.get(id)
      return destinations.flatMap(({ number, keptBytes }) => {
        const room = (bridge?.send.find((one) => one.number === number)?.away.most ?? 0) * 1e6
        if (!bridge || room === 0) return []
        const shared = { key: `waits ${id} ${number}`, name: `Bridge “${bridge.name}”`, place: `/bridges/${id}`, dropsOldest: true }
        return [{ ...shared, room, used: keptBytes / room, bytes: keptBytes }]
      })
    })
  }

  private historyQueue() {
    const { waitingBytes } = this.around.engine.history.status()
    const shared = { key: 'waits history', name: 'What is recorded', place: '/trends/recording', dropsOldest: false }
    return { ...shared, room: historyRoom, used: waitingBytes / historyRoom, bytes: waitingBytes }
  }

  private turned(stage: Stage) {
    const { engine, journal } = this.around
    engine.history.diskIs(stage, () => this.lacking())
    void this.judge().then(() => {
      const told = this.concerns.find(({ fault }) => fault.code === 'disk.short' || fault.code === 'disk.critical')
      if (told) journal.trouble('Upkeep', told.fault.what, told.fault)
      else if (stage === 'well') journal.note('Upkeep', `There is room again on the disk of ${this.disk.folder}.`)
    })
  }

  /** How many bytes have to give way so that the disk is not short any more. */
  private async lacking(): Promise<number> {
    await this.disk.look()
    const { facts } = this.disk
    return facts && this.around.isOwnDatabase ? Math.max(0, markOf('short', facts.bytes) * 1.2 - facts.freeBytes) : 0
  }
}

/** Nodes tell of their own disks; what they do about them is theirs. */
const nodeDisks = (nodes: readonly NodeStatus[]): UpkeepFacts['disks'] =>
  nodes.flatMap(({ name, machine }) => {
    if (!machine || machine.diskMb === null || machine.diskFreeMb === null) return []
    const facts = { bytes: machine.diskMb * mb, freeBytes: machine.diskFreeMb * mb }
    return [{ ...facts, name: `the node “${name}”`, stage: stageOf(facts), shortAt: null, isOurs: false, drops: false }]
  })
