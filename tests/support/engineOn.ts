import { mkdtempSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { AlarmLog } from '#engine/alarms/alarmLog'
import { ConfigurationFeed } from '#engine/configuration/feed'
import { FollowedSets } from '#engine/configuration/followedSets'
import { TakenOver } from '#engine/configuration/takenOver'
import { LastingAddresses } from '#engine/configuration/lastingAddresses'
import { Spool } from '#engine/bridges/spool'
import { fileRoots } from '#engine/disk/fileRoots'
import { Engine } from '#engine/engine'
import { Nodes } from '#engine/nodes/nodes'
import { MemoryStore } from '#engine/sources/memoryStore'
import { SiteAuthority } from '#security/siteAuthority'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag } from '#shared/tags'
import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import { freshDatabase } from './database'
import { memoryJournal } from './modbusSession'
import { testSecurity } from './security'

export type Closing = (() => Promise<unknown>)[]

export const closeAll = async (closing: Closing) => {
  for (const close of closing.splice(0).reverse()) await close()
}

export const stateFolderFor = (closing: Closing) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-state-'))
  // what is still being written by then goes on meanwhile
  closing.push(() => rm(folder, { recursive: true, force: true, maxRetries: 10, retryDelay: 100 }))
  return folder
}

export const databaseFor = async (closing: Closing, upTo?: string) => {
  const fresh = await freshDatabase(upTo)
  closing.push(() => fresh.db.destroy())
  return fresh
}

/** The meters of units 11 and 12 behind a gateway on a free port. */
export const metersFor = async (closing: Closing) => {
  const profile = { voltage: 11_000, load: 1000, powerFactor: 0.95, ramp: 1, swing: 0, swingPeriod: 1 }
  const gateway = new Gateway([11, 12].map((unit) => new Meter(unit, 1, new Berth(profile, 1000, true), () => 0)))
  const port = await gateway.listen(0)
  closing.push(() => gateway.close())
  let accepted = 0
  gateway['server'].on('connection', () => accepted++)
  return { port, gateway, accepted: () => accepted }
}

/** An engine that follows a database, as the engine's process has it. */
export const engineOn = async (
  closing: Closing,
  { url, db }: Awaited<ReturnType<typeof freshDatabase>>,
  stateFolder = stateFolderFor(closing),
) => {
  const journal = memoryJournal()
  const security = await testSecurity()
  const addresses = new LastingAddresses(db, journal)
  const followed = new FollowedSets(db, journal)
  const taken = new TakenOver(db, journal)
  const memory = new MemoryStore(join(stateFolder, 'memory-values.jsonl'))
  await memory.open()
  const spool = new Spool(join(stateFolder, 'spool'))
  // another engine of this test may be at home there
  await spool.open().catch(() => {})
  const alarmLog = new AlarmLog(db, journal)
  const authority = await SiteAuthority.load(stateFolder, security.seal)
  const nodes = new Nodes({
    ...{ db, databaseUrl: url, authority, seal: security.seal, journal },
    keepAddresses: (found) => addresses.keep(found),
    followSet: (set, plan) => followed.follow(set, plan),
    takeOver: (link, folder, plan) => taken.take(link, folder, plan),
  })
  const engine = new Engine({
    ...{ memory, spool, roots: await fileRoots(stateFolder, '') },
    history: { databaseUrl: url, folder: join(stateFolder, 'history') },
    alarms: { folder: join(stateFolder, 'alarms'), keep: (event) => alarmLog.add(event) },
    outletFolder: (id) => join(stateFolder, 'outlets', String(id)),
    node: 'test',
    journal,
    security,
    followSet: (set, plan) => followed.follow(set, plan),
    takeOver: (link, folder, plan) => taken.take(link, folder, plan),
    keepAddresses: (found) => addresses.keep(found),
    nodes,
  })
  nodes.serve(engine)
  const feed = new ConfigurationFeed({
    databaseUrl: url,
    db,
    stateFolder,
    journal,
    known: engine.wanted,
    apply: (news) => engine.apply(news),
  })
  closing.push(async () => {
    addresses.close()
    await followed.close()
    await taken.close()
    await feed.close()
    await nodes.close()
    await engine.close()
    await spool.close()
    await memory.close()
    await alarmLog.close()
  })
  await feed.start()
  const qualityOf = (id: number) => engine.table.quality[engine.tags.handleOf(id)!]!
  const valueOf = (id: number) => engine.table.values[engine.tags.handleOf(id)!]
  return { engine, nodes, feed, journal, security, spool, stateFolder, qualityOf, valueOf }
}

/** Columns of a link to meters, of a tag of theirs, and of an outlet. */
export const linkTo = (port: number, more: Record<string, unknown> = {}) => {
  return linkContract.parse({
    name: `Meters at ${port}`,
    kind: 'modbus-tcp',
    settings: { host: '127.0.0.1', port, unit: 11, interval: 50, order: 'CDAB', patience: { retryFirst: 100, retryMost: 300 } },
    ...more,
  })
}
export const powerTag = (link_id: number, path: string, address = 'holding/40') =>
  pointTag({ path, linkId: link_id, address, type: 'float32' })
export const outletAt = (port: number) => {
  return outletContract.parse({ name: `Outlet at ${port}`, kind: 'opcua-server', settings: { doors: [{ port }] } })
}
