import { join } from 'node:path'
import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import { OwnCertificate } from '#security/ownCertificate'
import type { Seal } from '#security/seal'
import { SiteAuthority } from '#security/siteAuthority'
import type { EngineStatus } from '#shared/status'
import { AlarmLog } from './alarms/alarmLog'
import { Spool } from './bridges/spool'
import { caseHeld, journalFor } from './configuration/caseHeld'
import { ConfigurationFeed } from './configuration/feed'
import { FollowedSets } from './configuration/followedSets'
import { LastingAddresses } from './configuration/lastingAddresses'
import type { Difference } from './configuration/site'
import { TakenOver } from './configuration/takenOver'
import { PathBook } from './diagnosis/pathBook'
import { PathWatch } from './diagnosis/pathWatch'
import { fileRoots } from './disk/fileRoots'
import { Engine } from './engine'
import type { Journal } from './journal/journal'
import type { KeptForNext } from './lead/keptForNext'
import { placedHere } from './lead/placedHere'
import { Forwarding } from './nodes/forwarding'
import { Nodes, type Several } from './nodes/nodes'
import { PairingDesk } from './pairing/desk'
import { EngineFunctions } from './rpc/api'
import type { WebHost, WebSide } from './rpc/server'
import { MemoryStore } from './sources/memoryStore'
import type { Security } from './trust/security'
import { TrustBook } from './trust/trustBook'
import { Upkeep } from './upkeep/upkeep'

export interface SiteGiven {
  stateFolder: string
  databaseUrl: string
  db: Kysely<Database>
  journal: Journal
  seal: Seal
  isOwnDatabase: boolean
  /** How this machine is called. */
  node: string
  /** Where the site has, or may have, several machines. */
  several: Several
  /** Under which name it is noted how far its record is stored. */
  historyState: string
  /** When another machine that led before this one was known to run; null: none did. */
  leaderAliveAt: number | null
  /** Where the next machine finds what it needs to go on, and whether that is another machine’s by now; null: there is no next one. */
  kept: { told: KeptForNext; isTakenOver: boolean } | null
}

/** How far sources were taken, which of them stand in what is on its way, how many runs there were, and what was taken of what others left. */
const bridgeRooms = ['f/', 's/', 'n/', 'h/']
const alarmRooms = ['a/']

export interface SiteEngine extends WebHost {
  engine: Engine
  nodes: Nodes
  authority: SiteAuthority
  /** Follows the configuration from now on. Resolves once one is in force. */
  start(): Promise<void>
  /** There are other machines from now on: they are told what they need to go on. */
  tellNext(told: KeptForNext): Promise<void>
  close(): Promise<void>
}

/** The engine of the machine that leads a site, with all that only the leading one does. */
export const siteEngine = async (given: SiteGiven): Promise<SiteEngine> => {
  const { stateFolder, databaseUrl, db, journal, seal, several } = given
  const security: Security = { own: await OwnCertificate.load(stateFolder, seal), trust: new TrustBook(), seal }
  const addresses = new LastingAddresses(db, journal)
  const followed = new FollowedSets(db, journal)
  const taken = new TakenOver(db, journal)
  const memory = new MemoryStore(join(stateFolder, 'memory-values.jsonl'))
  await memory
    .open()
    .catch((error: Error) => journal.caution('Engine', `Values of memory tags cannot be kept on disk now: ${error.message}`))
  const spool = new Spool(join(stateFolder, 'spool'))
  await spool
    .open()
    .catch((error: Error) => journal.trouble('Engine', `What bridges keep cannot be read or written on disk now: ${error.message}`))
  const tellNext = async (told: KeptForNext, isTakenOver: boolean) => {
    await told.follow('bridges', spool, bridgeRooms, isTakenOver)
    if (isTakenOver) await memory.take((await told.of('memory')).map(({ value }) => value))
    memory.listen((operations) => told.tell('memory', operations))
    await told.begin('memory', () => memory.entries())
  }
  if (given.kept) await tellNext(given.kept.told, given.kept.isTakenOver)
  const alarmLog = new AlarmLog(db, journal)
  const authority = await SiteAuthority.load(stateFolder, seal)
  const lasting = {
    keepAddresses: (found: Parameters<LastingAddresses['keep']>[0]) => addresses.keep(found),
    followSet: (...args: Parameters<FollowedSets['follow']>) => followed.follow(...args),
    takeOver: (...args: Parameters<TakenOver['take']>) => taken.take(...args),
  }
  const nodes = new Nodes({ ...{ db, databaseUrl, authority, seal, journal, several }, ...lasting })
  const engine = new Engine({
    ...{ memory, spool, roots: await fileRoots(stateFolder) },
    history: { databaseUrl, folder: join(stateFolder, 'history'), state: given.historyState, leaderAliveAt: given.leaderAliveAt },
    alarms: {
      ...{ folder: join(stateFolder, 'alarms'), keep: (event) => alarmLog.add(event) },
      opened: async (store) => given.kept?.told.follow('alarms', store, alarmRooms, given.kept.isTakenOver),
    },
    outletFolder: (id) => join(stateFolder, 'outlets', String(id)),
    ...{ node: given.node, journal, security, nodes },
    ...lasting,
  })
  nodes.serve(engine)
  const book = new PathBook(join(stateFolder, 'path-checks.json'))
  await book.open()
  const paths = new PathWatch({ engine, security, book })
  const desk = new PairingDesk({ db, engine, journal, security })
  const upkeep = new Upkeep({ ...{ stateFolder, db, engine, journal, authority }, own: security.own, isOwnDatabase: given.isOwnDatabase })
  const webSides = new Map<WebSide, { functions: EngineFunctions; forwarding: Forwarding }>()
  const apply = async (difference: Difference) => {
    if (difference.site) void journal.keep(journalFor(difference.site))
    await engine.apply(caseHeld(placedHere(difference, several.own()), engine.wanted))
    for (const { functions } of webSides.values()) functions.lookAgain()
  }
  const feed = new ConfigurationFeed({ databaseUrl, db, stateFolder, journal, known: engine.wanted, apply })
  const status = (): EngineStatus => ({
    ...engine.status(),
    ...{ configurationFrom: feed.from, databaseConnected: feed.connected, heldDatabase: feed.held, upkeep: upkeep.counts() },
  })

  return {
    ...{ engine, nodes, authority },
    start: async () => {
      await feed.start()
      void upkeep.start()
    },
    tellNext: async (told) => {
      await tellNext(told, false)
      await told.follow('alarms', engine.alarms.kept, alarmRooms, false)
    },
    api: (web) => {
      const parts = { engine, feed, upkeep, web, security, paths, book, journal, desk, nodes, folder: stateFolder, status }
      const functions = new EngineFunctions(parts)
      const forwarding = new Forwarding(functions, nodes, web)
      webSides.set(web, { functions, forwarding })
      return forwarding.api
    },
    left: (web) => {
      webSides.get(web)?.forwarding.close()
      webSides.delete(web)
    },
    close: async () => {
      for (const { forwarding } of webSides.values()) forwarding.close()
      desk.close()
      await upkeep.close()
      await nodes.close()
      paths.close()
      await book.close()
      addresses.close()
      await followed.close()
      await taken.close()
      await feed.close()
      await engine.close()
      await spool.close()
      await memory.close()
      await alarmLog.close()
    },
  }
}
