import { mkdirSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { recordingContract } from '#core/history/settings'
import { isGood } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { HistoryReader } from '#db/history/reader'
import type { StoredSample } from '#db/history/samples'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { joinSite } from '#engine/farNode/joining'
import { Seal } from '#security/seal'
import { linkContract } from '#shared/links/link'
import type { NodeCode } from '#shared/nodes'
import { outletContract } from '#shared/outlets/outlet'
import type { Answer } from '#shared/rpc'
import { pointTag, tagDraft } from '#shared/tags'
import { Child } from '../../launcher/child.mjs'
import { freePort } from '../../launcher/ports.mjs'
import { countingDevice } from './countingDevice'
import { closeAll, databaseFor, linkTo, stateFolderFor, type Closing } from './engineOn'
import { relayTo } from './relay'
import { bundledFor, OneMachine, siteOfMachines, twoMasters } from './siteMachines'
import { until } from './until'
import { Chance, pause } from '../soak/chance'

/**
 * A site at several places: two machines of which one leads, a node in a cabinet, and a site of its own that is read through a
 * relay, each in a process of its own. All of them are killed and stopped at random, their lines held and cut, the clocks of
 * the two machines set. What each place recorded while it was alive has to be in the history of the site at the end, once.
 */
interface Options {
  minutes: number
  seed: number
  tell(text: string): void
}

export interface PlacesReport {
  happened: Record<string, number>
  samples: { node: number; relay: number; site: number }
  /** Of the leading machine at the beginning and the end: resident memory, MB, and open handles. */
  memoryMb: [number, number]
  handles: [number, number]
  problems: string[]
}

/** A stretch of time in which a place cannot have recorded anything. */
interface Down {
  from: number
  to: number
}

const secret = 'a secret of a place that is no other one’s'
const lifeSign = pathToFileURL(join(process.cwd(), 'launcher', 'lifeSign.mjs')).href
const all = (pattern: string) => recordingContract.parse({ pattern, how: { kind: 'change' } })
/** Of what changes ten times a second: more between two samples is a gap. */
const gapMs = 3000
/** Starting, and reaching the device again, takes so long. */
const comesBackMs = 8000

const ramp = (path: string) =>
  tagDraft.parse({ path, type: 'float64', source: { kind: 'signal', shape: 'ramp', every: 100, low: 0, high: 1e6, cycle: 36_000_000 } })

export const provePlaces = async ({ minutes, seed, tell }: Options): Promise<PlacesReport> => {
  const closing: Closing = []
  const chance = new Chance(seed)
  try {
    const awaitedAt = await freePort()
    const site = await siteOfMachines(
      closing,
      ['harbour-a', 'harbour-b'],
      async (editor) => {
        await editor.insert('tag', [ramp('site/count')])
        const settings = {
          awaits: { interface: '127.0.0.1', port: awaitedAt },
          reading: { publishing: 100, sampling: 50, queue: 200 },
          patience: { connect: 2000, answer: 5000, retryFirst: 200, retryMost: 1000 },
          takesOver: { folder: 'far', namespaces: [tagNamespace] },
        }
        await editor.insert('link', [linkContract.parse({ name: 'Far berth', kind: 'opcua', settings })])
        await editor.insert('recording', [all('site/**'), all('cabinet/**'), all('far/**')])
      },
      { clock: true },
    )
    tell('Two machines of the site run')
    const cabinet = await startCabinet(closing, site)
    const far = await startFar(closing, awaitedAt)
    tell('The node and the far site run')
    const leads = async () => {
      const names = await Promise.all(site.machines.map(async (one) => (await one.status())?.lead?.name))
      return site.machines.find(({ name }) => names.includes(name)) ?? null
    }
    const flows = async () => {
      const status = await site.machines[0]!.status()
      return { flows: status?.links.map(({ flow }) => flow) ?? [], ready: status?.lead?.canHandOver.length === 1 }
    }
    const isWell = () => until(flows, ({ flows, ready }) => ready && flows.length === 3 && flows.every((flow) => flow === 'flowing'), 120)
    await isWell()
    await pause(3000)
    const before = used((await leads())!)
    const began = Date.now()
    const happened = await storms({ site, cabinet, far }, chance, began + minutes * 60_000, tell)
    tell('The weather is over; waiting until all is well')
    for (const machine of site.machines) machine.setClock(0)
    await isWell()
    const ended = Date.now()
    await pause(5000)
    await until(
      async () => (await site.machines[0]!.status())?.nodes.find(({ id }) => id === cabinet.node),
      (node) => node?.waiting === 0 && !node.isBehind,
      60,
    )
    const after = used((await leads())!)
    const problems = twoMasters(site.asked).map(({ at }) => `two machines spoke to the device of the site at ${moment(at)}`)
    problems.push(...twoMasters(cabinet.asked).map(({ at }) => `two spoke to the device of the cabinet at ${moment(at)}`))
    const reader = new HistoryReader(site.database.url)
    closing.push(() => reader.close())
    const ours = async (path: string): Promise<StoredSample[]> => {
      const { id } = await site.database.db.selectFrom('tag').select('id').where('path', '=', path).executeTakeFirstOrThrow()
      return reader.samples({ id, from: began, to: ended, most: 1_000_000 })
    }
    const node = await ours('cabinet/count')
    problems.push(...once('cabinet/count', node), ...gapsIn('cabinet/count', node, { began, ended, down: cabinet.down }))
    const filled = async () => missingIn(await far.samples(began, ended), await ours('far/site/count'))
    const lost = await until(filled, (missing) => missing.length === 0, 60).catch(filled)
    if (lost.length > 0) problems.push(`${lost.length} samples of the far site are not here, the first of ${moment(lost[0]!.at)}`)
    const relay = await ours('far/site/count')
    problems.push(...once('far/site/count', relay))
    const own = await ours('site/count')
    problems.push(...once('site/count', own))
    return {
      ...{ happened, samples: { node: node.length, relay: relay.length, site: own.length } },
      ...{ memoryMb: [before.memoryMb, after.memoryMb], handles: [before.handles, after.handles], problems },
    }
  } finally {
    await closeAll(closing)
  }
}

type Site = Awaited<ReturnType<typeof siteOfMachines>>

/** A node that reads a device of its own, which counts. */
const startCabinet = async (closing: Closing, { database, machines }: Site) => {
  const { port, asked } = await countingDevice(closing)
  const { result: node } = await changeConfiguration(database.db, 'test', 'A cabinet', async (editor) => {
    const [made] = await editor.insert('node', [{ name: 'Cabinet', note: '', key: null, standsBy: false, door: null }])
    const [link] = await editor.insert('link', [linkTo(port, { name: 'Counter', nodeId: made!.id })])
    await editor.insert('tag', [pointTag({ path: 'cabinet/count', linkId: link!.id, address: 'holding/60', type: 'uint16' })])
    return made!.id
  })
  const code = await until(
    () => machines[0]!.ask((engine) => engine.makeNodeCode(node, 15, 'ada') as unknown as Promise<Answer<NodeCode>>),
    ({ ok }) => ok,
  )
  const stateFolder = stateFolderFor(closing)
  await joinSite(code.ok ? code.value.code : '', '0.1.0', stateFolder, new Seal(secret))
  mkdirSync(join(stateFolder, 'log'))
  const env = { CONDUIT_STATE: stateFolder, CONDUIT_SEAL_KEY: secret, CONDUIT_VERSION: '0.1.0' }
  const args = ['--import', lifeSign, await bundledFor('engine/farNode/main.ts')]
  const child = new Child({ name: 'node', command: process.execPath, args, env, ipc: true }, join(stateFolder, 'log'), () => {})
  child.start()
  closing.push(() => child.stop())
  const down: Down[] = []
  return { node, asked, down, signal: (signal: NodeJS.Signals) => child.process?.kill(signal) }
}

/** A site of its own that records and dials ours, over a line that can be cut. */
const startFar = async (closing: Closing, awaitedAt: number) => {
  const line = await relayTo(awaitedAt)
  closing.push(() => Promise.resolve(line.close()))
  const database = await databaseFor(closing)
  const { result: id } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const [tag] = await editor.insert('tag', [ramp('site/count')])
    await editor.insert('recording', [all('site/**')])
    const settings = { doors: [{ on: false }], dialled: [{ host: '127.0.0.1', port: line.port, policies: ['None'] }] }
    await editor.insert('outlet', [outletContract.parse({ name: 'To the office', kind: 'opcua-server', settings })])
    return tag!.id
  })
  const machine = await OneMachine.start(closing, 'far', stateFolderFor(closing), database.url)
  const reader = new HistoryReader(database.url)
  closing.push(() => reader.close())
  return { line, machine, samples: (from: number, to: number) => reader.samples({ id, from, to, most: 1_000_000 }) }
}

interface Places {
  site: Site
  cabinet: Awaited<ReturnType<typeof startCabinet>>
  far: Awaited<ReturnType<typeof startFar>>
}

/** Harms one place after the other, and counts what was done. */
const storms = async ({ site, cabinet, far }: Places, chance: Chance, end: number, tell: Options['tell']) => {
  const happened: Record<string, number> = {}
  const machine = () => chance.oneOf(site.machines)
  const stopped = async (signal: (signal: NodeJS.Signals) => void) => {
    signal('SIGSTOP')
    await pause(chance.whole(500, 9000))
    signal('SIGCONT')
  }
  const away = async (work: () => Promise<void> | void) => {
    const from = Date.now()
    await work()
    cabinet.down.push({ from, to: Date.now() + comesBackMs })
  }
  const deeds: Record<string, () => Promise<void>> = {
    'machine killed': async () => machine().signal('SIGKILL'),
    'machine stopped': () => {
      const one = machine()
      return stopped((signal) => one.signal(signal))
    },
    'machine apart from the database': async () => {
      const { cable } = machine()
      cable.hold()
      await pause(chance.whole(500, 9000))
      cable.cut()
      cable.letGo()
    },
    'clock of a machine set': async () => {
      const one = machine()
      one.setClock(chance.oneOf([-3_600_000, 3_600_000]))
      await pause(chance.whole(2000, 8000))
      one.setClock(0)
    },
    'node killed': () => away(() => void cabinet.signal('SIGKILL')),
    'node stopped': () => away(() => stopped((signal) => cabinet.signal(signal))),
    'far site killed': async () => far.machine.signal('SIGKILL'),
    'line of the relay held': async () => {
      far.line.hold()
      await pause(chance.whole(2000, 15_000))
      far.line.cut()
      far.line.letGo()
    },
    'line of the relay cut': async () => far.line.cut(),
  }
  const names = Object.keys(deeds)
  while (Date.now() < end) {
    const name = chance.oneOf(names)
    tell(name)
    happened[name] = (happened[name] ?? 0) + 1
    await deeds[name]!()
    await pause(chance.whole(500, 5000))
  }
  return happened
}

const moment = (at: number) => new Date(at).toISOString()

/** Of one time there is one sample. */
const once = (path: string, samples: readonly StoredSample[]): string[] => {
  const twice = samples.length - new Set(samples.map(({ at }) => at)).size
  return twice === 0 ? [] : [`${twice} samples of ${path} are there twice`]
}

/** A place that is alive records, whoever of the others is away. */
const gapsIn = (
  path: string,
  samples: readonly StoredSample[],
  { began, ended, down }: { began: number; ended: number; down: readonly Down[] },
) => {
  const good = samples.filter(({ quality }) => isGood(quality)).map(({ at }) => at)
  const moments = [began, ...good, ended]
  return moments.flatMap((to, i) => {
    const from = i === 0 ? to : moments[i - 1]!
    const isExcused = down.some((one) => one.from < to && one.to > from)
    return to - from > gapMs && !isExcused ? [`${path} has nothing good for ${to - from} ms from ${moment(from)}`] : []
  })
}

/** What is there and not here, or otherwise here. */
const missingIn = (theirs: readonly StoredSample[], ours: readonly StoredSample[]): StoredSample[] => {
  const known = new Map(ours.map((sample) => [sample.at, sample]))
  return theirs.filter(({ at, number, quality }) => isGood(quality) && known.get(at)?.number !== number)
}

/** What a process holds. */
const used = ({ pid }: OneMachine) => {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8')
  return {
    memoryMb: Math.round(Number(/VmRSS:\s+(\d+)/.exec(status)![1]) / 1024),
    handles: readdirSync(`/proc/${pid}/fd`).length,
  }
}
