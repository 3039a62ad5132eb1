import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { createBirpc } from 'birpc'
import { build } from 'esbuild'
import { WebSocket } from 'ws'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import { joinSite } from '#engine/farNode/joining'
import { Seal } from '#security/seal'
import { nodeDoor, type NodeCode } from '#shared/nodes'
import type { Answer, EngineApi, WebApi } from '#shared/rpc'
import type { EngineStatus } from '#shared/status'
import { Child } from '../../launcher/child.mjs'
import { freePort } from '../../launcher/ports.mjs'
import { databaseFor, linkTo, metersFor, powerTag, stateFolderFor, type Closing } from './engineOn'
import { relayTo } from './relay'
import { until } from './until'

const secret = 'a secret of the site of several machines'
/** The engine in one file, which starts faster. */
const programs = new Map<string, Promise<string>>()
export const bundledFor = (entry: string): Promise<string> => {
  const known = programs.get(entry) ?? bundled(entry)
  programs.set(entry, known)
  return known
}
const bundled = async (entry: string): Promise<string> => {
  const outfile = join(process.cwd(), 'node_modules', '.cache', `conduit-${basename(entry, '.ts')}-${process.pid}-${programs.size}.mjs`)
  const ways = { bundle: true, platform: 'node', format: 'esm', target: 'node20', packages: 'external' } as const
  await build({ entryPoints: [entry], outfile, ...ways, logLevel: 'error' })
  process.once('exit', () => rmSync(outfile, { force: true }))
  return outfile
}
const lifeSign = pathToFileURL(join(process.cwd(), 'launcher', 'lifeSign.mjs')).href

/** The engine’s process of one machine, watched over as the launcher does, and its database behind a cable of its own. */
export class OneMachine {
  private child!: Child
  private rpcPort = 0
  cable!: Awaited<ReturnType<typeof relayTo>>

  private constructor(
    readonly name: string,
    readonly stateFolder: string,
  ) {}

  /** @param clock whether its clock can be set */
  static async start(closing: Closing, name: string, stateFolder: string, databaseUrl: string, clock = false): Promise<OneMachine> {
    const machine = new OneMachine(name, stateFolder)
    const url = new URL(databaseUrl)
    machine.cable = await relayTo(Number(url.port))
    closing.push(() => machine.cable.close())
    url.port = String(machine.cable.port)
    machine.rpcPort = await freePort()
    const log = join(stateFolder, 'log')
    mkdirSync(log, { recursive: true })
    const env = {
      ...{ CONDUIT_STATE: stateFolder, CONDUIT_DATABASE: url.href, CONDUIT_DATABASE_OWN: '', CONDUIT_SEAL_KEY: secret },
      ...{ CONDUIT_RPC_PORT: String(machine.rpcPort), CONDUIT_RPC_SECRET: secret, CONDUIT_NODE: name, CONDUIT_VERSION: '0.1.0' },
      ...(clock ? { CONDUIT_TEST_CLOCK: machine.clockFile } : {}),
    }
    machine.setClock(0)
    const setting = clock ? ['--import', pathToFileURL(await bundledFor('tests/support/clockOfFile.ts')).href] : []
    const args = [...setting, '--import', lifeSign, await bundledFor('engine/main.ts')]
    machine.child = new Child({ name: 'engine', command: process.execPath, args, env, ipc: true }, log, () => {})
    closing.push(() => machine.stop())
    machine.child.start()
    return machine
  }

  /** The same machine, switched on again. */
  again(closing: Closing, databaseUrl: string): Promise<OneMachine> {
    return OneMachine.start(closing, this.name, this.stateFolder, databaseUrl)
  }

  private get clockFile() {
    return join(this.stateFolder, 'clock')
  }

  /** @param ahead of the right time, ms */
  setClock(ahead: number) {
    writeFileSync(this.clockFile, String(ahead))
  }

  get pid(): number | undefined {
    return this.child.process?.pid
  }

  signal(signal: NodeJS.Signals) {
    this.child.process?.kill(signal)
  }

  /** Ends it for good, as when the machine is switched off. */
  async stop(signal: NodeJS.Signals = 'SIGTERM') {
    this.signal('SIGCONT')
    const ended = this.child.stop()
    this.signal(signal)
    await ended
  }

  /** Asks the engine that this machine’s web side speaks with: its own, or that of the machine that leads. Rejects where there is none. */
  async ask<T>(work: (engine: EngineApi) => Promise<T>): Promise<T> {
    const socket = new WebSocket(`ws://127.0.0.1:${this.rpcPort}`, { headers: { authorization: `Bearer ${secret}` } })
    try {
      await new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject).once('close', reject))
      const gone = new Promise<never>((_, reject) => socket.once('close', () => reject(new Error('nobody leads'))))
      const engine = createBirpc<EngineApi, WebApi>({ part: () => {}, deliver: () => Promise.resolve() } as never, {
        post: (data: string) => socket.send(data),
        on: (take) => socket.on('message', (data: Buffer) => void take(data.toString())),
        serialize: (message) => JSON.stringify(message),
        deserialize: (text: string) => JSON.parse(text) as unknown,
        timeout: 8000,
      })
      return await Promise.race([work(engine as never), gone])
    } finally {
      socket.terminate()
    }
  }

  /** Null: nobody leads, as far as this machine knows. */
  status(): Promise<EngineStatus | null> {
    return this.ask((engine) => Promise.resolve(engine.status())).catch(() => null)
  }

  log(): string {
    return readFileSync(join(this.stateFolder, 'log', 'engine.log'), 'utf8')
  }
}

/** Who asked a device when: by the connection over which it did. */
export const watched = (gateway: Awaited<ReturnType<typeof metersFor>>['gateway']) => {
  const asked: { at: number; connection: number }[] = []
  let connections = 0
  gateway['server'].on('connection', (socket) => {
    const connection = connections++
    socket.on('data', () => asked.push({ at: Date.now(), connection }))
  })
  return asked
}

/** Requests of a connection that came after a later one had begun to ask: two masters talked to the device. */
export const twoMasters = (asked: readonly { at: number; connection: number }[]) => {
  let latest = -1
  return asked.filter(({ connection }) => {
    const isOld = connection < latest
    latest = Math.max(latest, connection)
    return isOld
  })
}

/** A site with meters, led by one machine, with others that stand by. */
export const siteOfMachines = async (
  closing: Closing,
  names: string[],
  also: (editor: Editor) => Promise<unknown> = async () => {},
  { clock = false } = {},
) => {
  const database = await databaseFor(closing)
  const meters = await metersFor(closing)
  const asked = watched(meters.gateway)
  const doorAt = async () => nodeDoor.parse({ host: '127.0.0.1', interface: '127.0.0.1', port: await freePort() })
  const firstDoor = await doorAt()
  const { result } = await changeConfiguration(database.db, 'test', 'A site', async (editor) => {
    await editor.db
      .updateTable('site')
      .set({ name: 'Harrow Sound', nodeDoor: JSON.stringify(firstDoor) })
      .execute()
    const settings = linkTo(meters.port).settings
    const [link] = await editor.insert('link', [linkTo(meters.port, { name: 'Meters', settings: { ...settings, connections: 1 } })])
    const [tag] = await editor.insert('tag', [powerTag(link!.id, 'quay/power')])
    await also(editor)
    return { link: link!, tag: tag! }
  })
  const machines: OneMachine[] = [await OneMachine.start(closing, names[0]!, stateFolderFor(closing), database.url, clock)]
  const [first] = machines
  await until(
    () => first!.status(),
    (status) => status?.links[0]?.flow === 'flowing',
    90,
  )
  const nodes: number[] = []
  for (const name of names.slice(1)) {
    const door = await doorAt()
    const { result: made } = await changeConfiguration(database.db, 'test', `Node ${name}`, (editor) =>
      editor.insert('node', [{ name, note: '', key: null, standsBy: true, door: door as never }]),
    )
    const id = made[0]!.id
    nodes.push(id)
    const code = await until(
      () => first!.ask((engine) => engine.makeNodeCode(id, 15, 'ada') as unknown as Promise<Answer<NodeCode>>),
      ({ ok }) => ok,
    )
    const folder = stateFolderFor(closing)
    await joinSite(code.ok ? code.value.code : '', '0.1.0', folder, new Seal('the secret of a machine before it joined'), true)
    const kept = JSON.parse(readFileSync(join(folder, 'secrets.json'), 'utf8')) as { seal: string; databaseUrl: string }
    if (kept.seal !== secret) throw new Error('the seal of the site did not come with the code')
    machines.push(await OneMachine.start(closing, name, folder, database.url, clock))
  }
  await until(
    async () => (await first!.status())?.lead?.canHandOver.length,
    (count) => count === names.length - 1,
    90,
  )
  const { node: firstNode } = (await first!.status())!.lead!
  return { database, meters, asked, machines, nodes, firstNode, ...result }
}
