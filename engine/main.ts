import { mkdirSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import pino from 'pino'
import { connect } from '#db/connect'
import { OwnCertificate } from '#security/ownCertificate'
import { Seal } from '#security/seal'
import { SiteAuthority } from '#security/siteAuthority'
import type { EngineStatus } from '#shared/status'
import { AlarmLog } from './alarms/alarmLog'
import { Spool } from './bridges/spool'
import { caseHeld, journalFor } from './configuration/caseHeld'
import { ConfigurationFeed } from './configuration/feed'
import { FollowedSets } from './configuration/followedSets'
import { TakenOver } from './configuration/takenOver'
import { LastingAddresses } from './configuration/lastingAddresses'
import type { Difference } from './configuration/site'
import { fileRoots } from './disk/fileRoots'
import { PairingDesk } from './pairing/desk'
import { PathBook } from './diagnosis/pathBook'
import { PathWatch } from './diagnosis/pathWatch'
import { Engine } from './engine'
import { Journal } from './journal/journal'
import { Forwarding } from './nodes/forwarding'
import { Nodes } from './nodes/nodes'
import type { Security } from './trust/security'
import { TrustBook } from './trust/trustBook'
import { requireInternals } from './opcua/internals'
import { EngineFunctions } from './rpc/api'
import { MemoryStore } from './sources/memoryStore'
import { openRpc, type WebSide } from './rpc/server'

const required = (name: string): string => {
  const value = process.env[name]
  if (!value) throw new Error(`${name} is not set; ./conduit start sets it.`)
  return value
}

const main = async () => {
  const log = pino({ base: { process: 'engine' } })
  requireInternals()
  const stateFolder = required('CONDUIT_STATE')
  mkdirSync(stateFolder, { recursive: true })
  const databaseUrl = required('CONDUIT_DATABASE')
  const db = connect(databaseUrl, (error) => log.warn({ error: error.message }, 'idle database connection lost'))
  const journal = new Journal(db, log, join(stateFolder, 'unsaved-writes.jsonl'))
  const seal = new Seal(required('CONDUIT_SEAL_KEY'))
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
  const roots = await fileRoots(stateFolder)
  const alarmLog = new AlarmLog(db, journal)
  const authority = await SiteAuthority.load(stateFolder, seal)
  const nodes = new Nodes({
    ...{ db, databaseUrl, authority, seal, journal },
    keepAddresses: (found) => addresses.keep(found),
    followSet: (set, plan) => followed.follow(set, plan),
    takeOver: (link, folder, plan) => taken.take(link, folder, plan),
  })
  const engine = new Engine({
    ...{ memory, spool, roots },
    history: { databaseUrl, folder: join(stateFolder, 'history') },
    alarms: { folder: join(stateFolder, 'alarms'), keep: (event) => alarmLog.add(event) },
    outletFolder: (id) => join(stateFolder, 'outlets', String(id)),
    node: process.env.CONDUIT_NODE ?? hostname(),
    journal,
    security,
    followSet: (set, plan) => followed.follow(set, plan),
    takeOver: (link, folder, plan) => taken.take(link, folder, plan),
    keepAddresses: (found) => addresses.keep(found),
    nodes,
  })
  nodes.serve(engine)
  const book = new PathBook(join(stateFolder, 'path-checks.json'))
  await book.open()
  const paths = new PathWatch({ engine, security, book })
  const desk = new PairingDesk({ db, engine, journal, security })
  const webSides = new Map<WebSide, { functions: EngineFunctions; forwarding: Forwarding }>()
  const apply = async (difference: Difference) => {
    if (difference.site) void journal.keep(journalFor(difference.site))
    await engine.apply(caseHeld(difference, engine.wanted))
    for (const { functions } of webSides.values()) functions.lookAgain()
  }
  const feed = new ConfigurationFeed({ databaseUrl, db, stateFolder, journal, known: engine.wanted, apply })
  const fullStatus = (): EngineStatus => ({ ...engine.status(), configurationFrom: feed.from, databaseConnected: feed.connected })

  const rpc = await openRpc({
    host: process.env.CONDUIT_RPC_HOST ?? '127.0.0.1',
    port: Number(required('CONDUIT_RPC_PORT')),
    secret: required('CONDUIT_RPC_SECRET'),
    api: (web) => {
      const functions = new EngineFunctions({
        engine,
        feed,
        web,
        security,
        paths,
        book,
        journal,
        desk,
        joining: nodes.desk,
        folder: stateFolder,
        status: fullStatus,
      })
      const forwarding = new Forwarding(functions, nodes, web)
      webSides.set(web, { functions, forwarding })
      return forwarding.api
    },
    left: (web) => {
      webSides.get(web)?.forwarding.close()
      webSides.delete(web)
    },
  })

  const because = process.env.CONDUIT_RETURNED_BECAUSE
  if (because) journal.caution('Engine', `Brought back: ${because}.`)
  else journal.note('Engine', 'Started.')
  await feed.start()

  const stop = async () => {
    setTimeout(() => process.exit(0), 5000).unref()
    for (const { forwarding } of webSides.values()) forwarding.close()
    desk.close()
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
    await rpc.close()
    journal.note('Engine', 'Stopped.')
    await journal.close()
    await db.destroy().catch(() => {})
    process.exit(0)
  }
  process.once('SIGTERM', () => void stop())
  process.once('SIGINT', () => void stop())
  process.once('disconnect', () => void stop())
  process.on('unhandledRejection', (reason) => journal.trouble('Engine', `Something went wrong that nobody expected: ${String(reason)}`))
}

await main()
