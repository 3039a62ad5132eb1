import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import type { Logger } from 'pino'
import { counted } from '#core/text/counted'
import { diskFault } from '#core/upkeep/judge'
import { subjectsInOrder } from '#db/subjects'
import { OwnCertificate } from '#security/ownCertificate'
import { openAt } from '#security/nodeSeal'
import type { Seal } from '#security/seal'
import { nodeForm, type NodeHello, type NodeSide, type NodeTold, type SiteSide } from '#shared/nodeRpc'
import { mapSecrets } from '#shared/secrets'
import type { Difference } from '../configuration/site'
import { PathBook } from '../diagnosis/pathBook'
import { PathWatch } from '../diagnosis/pathWatch'
import { fileRoots } from '../disk/fileRoots'
import { Engine } from '../engine'
import type { Line } from '../nodes/line'
import { Spool } from '../bridges/spool'
import { MemoryStore } from '../sources/memoryStore'
import { DiskWatch } from '../upkeep/diskWatch'
import { SiteClock } from '../upkeep/siteClock'
import { tagsOver } from '../tags/tagsOver'
import type { Security } from '../trust/security'
import { TrustBook } from '../trust/trustBook'
import { FarFunctions } from './farFunctions'
import { FarJournal, type FarDesk } from './farJournal'
import type { NodeIdentity } from './identity'
import { machineNow } from './machine'
import { ParcelSender } from './parcelSender'
import { SiteFeed } from './siteFeed'
import { SiteLine } from './siteLine'
import { Upstream } from './upstream'

interface Given {
  identity: NodeIdentity
  stateFolder: string
  seal: Seal
  version: string
  log: Logger
  /** Where the certificate lies that the machine shows to devices; absent: with the rest. */
  certificateFolder?: string
  /** Of this run of this machine. */
  run?: string
  /** Where events and writes go; absent: to the site. */
  records?: FarDesk
  /** Gives its word not to begin to lead the site for so long; absent: it never leads. */
  promise?(ms: number): boolean
}

export interface FarStatus {
  node: string
  site: string
  at: string
  isConnected: boolean
  since: number
  problem: string | null
  next: string | null
  revision: number
  notInForce: string[]
  waiting: number
  links: { name: string; sentence: string }[]
}

const tellEveryMs = 1000

/** The engine of a machine elsewhere: it runs links by the configuration that its site told it last, and brings what comes of them there. */
export const farEngine = async ({ identity, stateFolder, seal, version, log, ...given }: Given) => {
  const { run = randomUUID(), certificateFolder = stateFolder } = given
  const notConnected = () => Promise.reject(new Error('the site is not connected'))
  const journal = new FarJournal(
    log,
    given.records ?? {
      journal: (entries) => line.current?.rpc.journal(entries) ?? notConnected(),
      writes: (records) => line.current?.rpc.writes([...records]) ?? notConnected(),
    },
    join(stateFolder, 'unsaved-writes.jsonl'),
  )
  const security: Security = { own: await OwnCertificate.load(certificateFolder, seal), trust: new TrustBook(), seal }
  const memory = new MemoryStore(join(stateFolder, 'memory-values.jsonl'))
  await memory.open().catch(() => {})
  const spool = new Spool(join(stateFolder, 'spool'))
  await spool.open().catch((error: Error) => journal.trouble('Engine', `What bridges keep cannot be kept on disk: ${error.message}`))
  let sender: ParcelSender | null = null
  /** Told where it is connected; what does not arrive is told again by itself, or is of no use later. */
  const toSite = (tell: (site: SiteLine['site']) => Promise<unknown>) => {
    if (line.isConnected) tell(line.site).catch(() => {})
  }
  const engine = new Engine({
    ...{ memory, spool, outletFolder: (id: number) => join(stateFolder, 'outlets', String(id)) },
    roots: await fileRoots(stateFolder),
    history: {
      folder: join(stateFolder, 'history'),
      carrier: (queue) => (sender = new ParcelSender(queue, (why) => journal.trouble('History', why))),
    },
    node: identity.name,
    journal,
    security,
    followSet: ({ id }, plan) => toSite((site) => site.followSet.asEvent(id, plan)),
    takeOver: ({ id }, folder, { make, change, remove }) => toSite((site) => site.takeOver.asEvent(id, folder, { make, change, remove })),
    keepAddresses: (addresses) => toSite((site) => site.found.asEvent({ addresses })),
  })
  const clock = new SiteClock(stateFolder, journal)
  const disk = new DiskWatch(stateFolder, (stage) => {
    // nothing that is stored here could give way: what waits for the site is all there is
    engine.history.diskIs(stage, () => Promise.resolve(0))
    const why = diskFault({ name: `the node “${identity.name}”`, stage, drops: false, ...disk.facts! })
    if (why) journal.trouble('Upkeep', why.what, why)
  })
  const book = new PathBook(join(stateFolder, 'path-checks.json'))
  await book.open()
  const paths = new PathWatch({ engine, security, book })
  const upstream = new Upstream(engine.table, engine.tags)
  let required: number[] = []
  const requireAll = () => {
    const found = required.flatMap((id) => engine.tags.byTagId(id)?.path ?? [])
    engine.history.require(new Set(found), 'elsewhere')
  }
  const apply = async (difference: Difference) => {
    await engine.apply(difference)
    // the site lets another machine talk to a device once this one does not any more
    await engine.parted
    upstream.isBy(difference.revision)
    const links = new Set(difference.parts.link.set.map(({ id }) => id))
    upstream.resend(touched(engine, difference, links))
    requireAll()
  }
  const reseal = <T>(value: T): T =>
    mapSecrets(value, (secret) => ('sealed' in secret ? { sealed: seal.close(openAt(identity.privateKey, secret.sealed)) } : secret))
  const resealed = (thing: unknown) => {
    try {
      return reseal(thing)
    } catch {
      // what cannot be opened is told by the link that needs it
      return thing
    }
  }
  const feed = new SiteFeed({ stateFolder, journal, known: engine.wanted, apply, resealed })
  const web = {
    part: Object.assign(() => Promise.resolve(), { asEvent: (id: string, part: unknown) => toSite((site) => site.part.asEvent(id, part)) }),
  }
  const functions = new FarFunctions({ engine, security, paths, book, web: web as never })
  const side: NodeSide = {
    take: (part) => feed.take(part),
    require: (ids) => {
      required = ids.filter(Number.isInteger)
      requireAll()
    },
    stored: (number) => sender?.stored(number),
    resend: (ids) => upstream.resend(ids),
    renew: (certificate) => identity.renew(certificate),
    promise: (ms) => given.promise?.(ms) ?? true,
    ask: async (name, args) => functions.call(name, args.map(resealed)),
  }
  const hello = (): NodeHello => ({
    ...{ form: nodeForm, version, run, now: Date.now(), revision: engine.wanted.revision },
    has: Object.fromEntries(
      subjectsInOrder().map((subject) => [
        subject,
        [...engine.wanted.things[subject].values()].map(({ id, revision }) => [id, revision] as [number, number]),
      ]),
    ),
  })
  const line = new SiteLine({
    identity,
    hello,
    functions: side,
    came: (open) => {
      journal.note('Engine', `Connected to its site, “${identity.site}”.`)
      feed.begin()
      upstream.connect(outgoing(open))
      sender?.connect(outgoing(open))
      void tell()
    },
    left: (why) => {
      upstream.disconnect()
      sender?.disconnect()
      functions.close()
      journal.caution('Engine', `The site is not connected any more: ${why}. Links go on with the last configuration.`)
    },
    failed: (why) => journal.caution('Engine', why.what, why),
  })
  const told = async (): Promise<NodeTold> => {
    const { links, outlets, bridges, recordSets, notInForce, notInForceCount, changesInPerSecond } = engine.status()
    return {
      ...{ now: Date.now(), revision: engine.wanted.revision, links, outlets, bridges, recordSets, notInForce, notInForceCount },
      changesPerSecond: changesInPerSecond,
      waiting: sender?.waiting ?? 0,
      waitingSince: sender?.waitingSince ?? null,
      machine: await machineNow(stateFolder),
    }
  }
  const tell = async () => {
    const now = await told()
    toSite((site) => site.told.asEvent(now))
  }
  const timer = setInterval(() => void tell().catch((error: Error) => log.warn({ error: error.message }, 'status not told')), tellEveryMs)

  const status = (): FarStatus => {
    const { links, notInForce } = engine.status()
    const { place } = identity
    return {
      ...{ node: identity.name, site: identity.site, at: place ? `${place.host}:${place.port}` : '' },
      ...{ isConnected: line.isConnected, since: line.since, problem: line.fault?.what ?? null, next: line.fault?.next ?? null },
      revision: engine.wanted.revision,
      notInForce: notInForce.map(({ fault }) => fault.what),
      waiting: sender?.waiting ?? 0,
      links: links.map(({ id, sentence }) => ({ name: engine.link(id)?.name ?? String(id), sentence })),
    }
  }
  const close = async () => {
    clearInterval(timer)
    disk.close()
    await clock.close()
    functions.close()
    paths.close()
    upstream.close()
    await feed.close()
    await book.close()
    await engine.close()
    await spool.close()
    await memory.close()
    journal.note('Engine', 'Stopped.')
    await journal.close()
    line.close()
  }
  await feed.start()
  journal.note('Engine', `Started, with ${counted(engine.wanted.things.link.size, 'link')}.`)
  line.start()
  return { engine, journal, line, status, close }
}

/** Tags whose values may be of another source than before. */
const touched = function* (engine: Engine, { parts }: Difference, links: ReadonlySet<number>): Generator<number> {
  for (const { id } of parts.tag.set) yield id
  for (const { id } of links.size === 0 ? [] : tagsOver(links, engine.tags.all(), engine.wanted.things.recordSet)) yield id
}

const outgoing = (line: Line<SiteSide, NodeSide>) => ({
  send: (frame: Uint8Array) => line.send(frame),
  get backlog() {
    return line.backlog
  },
})
