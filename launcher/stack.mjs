import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { Child } from './child.mjs'
import { isLauncher } from './launchers.mjs'
import { project } from './paths.mjs'
import { choosePorts } from './ports.mjs'
import { elsewhereDatabase, preparePostgres, secretOf, waitForPort } from './postgres.mjs'
import { isReachable, untilItWorks } from './siteDatabase.mjs'
import { keepBefore, notePrepared, wasPrepared } from './upgrade.mjs'

/**
 * @typedef {object} StackOptions
 * @property {string} folder
 * @property {boolean} standins with the simulated devices
 * @property {number} [arms] so many of the three cable arms, each of which loads the standard's node set; by itself all
 * @property {boolean} demoData
 * @property {boolean} [throwaway] what it keeps need not outlive a power cut
 * @property {Partial<Record<'web' | 'modbus' | 'control' | 'opcua' | 'opcuaSecured' | 'mqtt' | 'mqttSecured' | 'http' | 'modbusOutlet' | 'meterLine' | 'arm1' | 'arm2' | 'arm3' | 'quay' | 'converter' | 'ventilation' | 'transformer' | 'sensors' | 'tariff' | 'tariffSecured' | 'cloud' | 'cloudMqtt', number>>} [wishes]
 * @property {(text: string) => void} tell
 */

const usualPorts = {
  database: 0,
  rpc: 0,
  web: 8480,
  modbus: 5020,
  control: 8490,
  opcua: 4840,
  opcuaSecured: 4841,
  mqtt: 1883,
  mqttSecured: 8883,
  http: 8580,
  modbusOutlet: 502,
  meterLine: 4001,
  arm1: 4851,
  arm2: 4852,
  arm3: 4853,
  quay: 1884,
  converter: 8102,
  ventilation: 47808,
  transformer: 47809,
  sensors: 8497,
  tariff: 8495,
  tariffSecured: 8496,
  cloud: 8498,
  cloudMqtt: 8884,
}

/** Loaded before a process’s own code: it gives signs of life. */
export const lifeSign = pathToFileURL(join(project, 'launcher', 'lifeSign.mjs')).href

const { version } = JSON.parse(readFileSync(join(project, 'package.json'), 'utf8'))

/** A busy machine takes its time. */
const longestStartMs = 180_000

export const bundle = (/** @type {string} */ name) => join(project, '.output', 'bundles', name)

/**
 * Database, engine, web application and, for the demo, the stand-ins: started in order, watched
 * over, stopped in reverse.
 */
export class Stack {
  /** @type {Child[]} */
  #children = []
  /** Whether the state folder is this launcher's; another one may be at work on it. */
  #isOurs = false

  /** @param {StackOptions} options */
  constructor(options) {
    this.options = options
    /** Who may come in first, told once. @type {{ name: string, password: string } | null} */
    this.firstAccount = null
    this.ports = { ...usualPorts }
  }

  async start() {
    const { folder, standins, demoData, wishes = {} } = this.options
    refuseSecond(folder)
    this.#isOurs = true
    this.ports = await choosePorts(folder, { ...usualPorts, ...wishes })
    mkdirSync(join(folder, 'log'), { recursive: true })
    const env = this.#environment(await this.#database())
    if (standins) this.#launch(this.#node('stand-ins', bundle('standins.mjs'), env))
    // the database of several machines is prepared by the one that leads
    if (!isStandby(folder) && !this.#goesOnWithout(env.CONDUIT_DATABASE ?? '')) {
      await keepBefore(folder, env.CONDUIT_DATABASE ?? '', this.options.tell)
      this.firstAccount = this.#once('prepare.mjs', { ...env, CONDUIT_DEMO: demoData ? '1' : '' })
      notePrepared(folder)
    }
    this.#launch(this.#node('engine', bundle('engine.mjs'), env))
    this.#launch(this.#node('web', join(project, '.output', 'server', 'index.mjs'), env))
    writeFileSync(join(folder, 'run.json'), JSON.stringify({ pid: process.pid, ports: this.ports, children: this.pids() }, null, 2))
    await this.#waitForWeb()
  }

  /** The database elsewhere, or one of its own that is started. @returns {Promise<string>} its URL */
  async #database() {
    const { folder, throwaway } = this.options
    const elsewhere = elsewhereDatabase(folder)
    if (elsewhere) return elsewhere
    const database = preparePostgres(folder, this.ports.database, throwaway)
    this.#launch(database.spec)
    await waitForPort(this.ports.database)
    await untilItWorks(database.url)
    return database.url
  }

  /** A database elsewhere that is away now, and was prepared by this version: the engine starts on what it kept. @param {string} url */
  #goesOnWithout(url) {
    const { folder, tell } = this.options
    if (!elsewhereDatabase(folder) || !wasPrepared(folder) || isReachable(url)) return false
    tell('The database does not answer: starting on the configuration that was kept.')
    return true
  }

  pids() {
    return Object.fromEntries(this.#children.map((child) => [child.spec.name, child.process?.pid]))
  }

  /** Whether all of it runs, or is being brought back. */
  get isSound() {
    return this.#children.every((child) => child.isWatched)
  }

  async stop() {
    for (const child of [...this.#children].reverse()) await child.stop()
    if (this.#isOurs) rmSync(join(this.options.folder, 'run.json'), { force: true })
  }

  /** @param {string} databaseUrl @returns {NodeJS.ProcessEnv} */
  #environment(databaseUrl) {
    const { folder, arms = 3 } = this.options
    const {
      rpc,
      web,
      modbus,
      control,
      opcua,
      opcuaSecured,
      mqtt,
      mqttSecured,
      http,
      modbusOutlet,
      meterLine,
      arm1,
      arm2,
      arm3,
      quay,
      converter,
      ventilation,
      transformer,
      sensors,
      tariff,
      tariffSecured,
      cloud,
      cloudMqtt,
    } = this.ports
    return {
      NODE_ENV: 'production',
      CONDUIT_STATE: folder,
      CONDUIT_BUNDLES: join(project, '.output', 'bundles'),
      CONDUIT_DATABASE: databaseUrl,
      CONDUIT_DATABASE_OWN: elsewhereDatabase(folder) ? '' : '1',
      CONDUIT_VERSION: version,
      CONDUIT_RPC_PORT: String(rpc),
      CONDUIT_RPC_SECRET: secretOf(folder, 'rpc'),
      CONDUIT_SEAL_KEY: secretOf(folder, 'seal'),
      CONDUIT_STANDIN_MODBUS_PORT: String(modbus),
      CONDUIT_STANDIN_LINE_PORT: String(meterLine),
      CONDUIT_STANDIN_PORT: String(control),
      CONDUIT_OPCUA_PORT: String(opcua),
      CONDUIT_OPCUA_SECURED_PORT: String(opcuaSecured),
      CONDUIT_MQTT_PORT: String(mqtt),
      CONDUIT_MQTT_SECURED_PORT: String(mqttSecured),
      CONDUIT_HTTP_PORT: String(http),
      CONDUIT_MODBUS_PORT: String(modbusOutlet),
      CONDUIT_STANDIN_QUAY_PORT: String(quay),
      CONDUIT_STANDIN_CONVERTER_PORT: String(converter),
      CONDUIT_STANDIN_VENTILATION_PORT: String(ventilation),
      CONDUIT_STANDIN_TRANSFORMER_PORT: String(transformer),
      CONDUIT_STANDIN_SENSOR_PORT: String(sensors),
      CONDUIT_STANDIN_TARIFF_PORT: String(tariff),
      CONDUIT_STANDIN_TARIFF_SECURED_PORT: String(tariffSecured),
      CONDUIT_STANDIN_CLOUD_PORT: String(cloud),
      CONDUIT_STANDIN_CLOUD_MQTT_PORT: String(cloudMqtt),
      CONDUIT_STANDIN_ARM_PORTS: [arm1, arm2, arm3].slice(0, arms).join(','),
      NITRO_HOST: '127.0.0.1',
      NITRO_PORT: String(web),
    }
  }

  /** @param {string} name @param {string} script @param {NodeJS.ProcessEnv} env */
  #node(name, script, env) {
    return { name, command: process.execPath, args: ['--import', lifeSign, script], env, ipc: true }
  }

  /** @param {import('./child.mjs').ChildSpec} spec */
  #launch(spec) {
    const child = new Child(spec, join(this.options.folder, 'log'), this.options.tell)
    this.#children.push(child)
    child.start()
  }

  /** @param {string} script @param {NodeJS.ProcessEnv} env */
  #once(script, env) {
    const { status, stdout, stderr } = spawnSync(process.execPath, [bundle(script)], { env: { ...process.env, ...env }, encoding: 'utf8' })
    if (status !== 0) throw new Error(`The database could not be prepared:\n${stdout}${stderr}`)
    return accountIn(stdout)
  }

  async #waitForWeb() {
    const url = `http://127.0.0.1:${this.ports.web}/api/health`
    const until = Date.now() + longestStartMs
    while (Date.now() < until) {
      const health = await fetch(url, { signal: AbortSignal.timeout(2000) }).then(
        (response) => /** @type {Promise<{ engine: boolean, database: boolean }>} */ (response.json()).catch(() => null),
        () => null,
      )
      if (health?.engine && health?.database) return
      // a database elsewhere, or whoever leads, may come later
      if (health && elsewhereDatabase(this.options.folder)) return
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error(
      `The web application does not answer at ${url}; its log is in ${join(this.options.folder, 'log')}. ${this.#lastWords()}`,
    )
  }

  /** What the processes wrote last. */
  #lastWords() {
    return this.#children.map(({ spec: { name } }) => `${name}: ${lastLine(join(this.options.folder, 'log', `${name}.log`))}`).join('; ')
  }
}

/** @param {string} output @returns {{ name: string, password: string } | null} */
export const accountIn = (output) => JSON.parse(output.trim().split('\n').at(-1) ?? '{}').account ?? null

/** Whether this machine was made one that stands by for a site. @param {string} folder */
export const isStandby = (folder) => {
  const file = join(folder, 'node.json')
  return existsSync(file) && JSON.parse(readFileSync(file, 'utf8')).standsBy === true
}

/** Two launchers on one state folder would fight over it. @param {string} folder */
export const refuseSecond = (folder) => {
  const file = join(folder, 'run.json')
  if (!existsSync(file)) return
  const { pid, ports } = JSON.parse(readFileSync(file, 'utf8'))
  const where = ports.web ? `, at http://127.0.0.1:${ports.web}` : ''
  if (isLauncher(pid)) throw new Error(`It runs already${where} (process ${pid}).`)
}

/** @param {string} file */
const lastLine = (file) => (existsSync(file) ? readFileSync(file, 'utf8').trim().split('\n').at(-1) : '') || 'nothing'
