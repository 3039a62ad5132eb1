import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Child } from './child.mjs'
import { bundle, lifeSign, refuseSecond } from './stack.mjs'
import { project } from './paths.mjs'
import { secretOf } from './postgres.mjs'

/**
 * @typedef {object} NodeStatus
 * @property {number} pid
 * @property {number} writtenAt
 * @property {string} node
 * @property {string} site
 * @property {string} at
 * @property {boolean} isConnected
 * @property {number} since
 * @property {string | null} problem
 * @property {string | null} next
 * @property {number} revision
 * @property {string[]} notInForce
 * @property {number} waiting
 * @property {{ name: string, sentence: string }[]} links
 */

const longestStartMs = 60_000

/** The engine of a node, without a database and a web side of its own: started, watched over, stopped. */
export class NodeStack {
  /** @type {Child | null} */
  #child = null
  #isOurs = false

  /** @param {{ folder: string, tell: (text: string) => void }} options */
  constructor(options) {
    this.options = options
  }

  async start() {
    const { folder, tell } = this.options
    refuseSecond(folder)
    this.#isOurs = true
    mkdirSync(join(folder, 'log'), { recursive: true })
    const spec = {
      name: 'node',
      command: process.execPath,
      args: ['--import', lifeSign, bundle('node.mjs')],
      env: nodeEnvironment(folder),
      ipc: true,
    }
    this.#child = new Child(spec, join(folder, 'log'), tell)
    this.#child.start()
    writeFileSync(join(folder, 'run.json'), JSON.stringify({ pid: process.pid, ports: {} }, null, 2))
    await this.#waitForStatus()
  }

  /** Whether it runs, or is being brought back. */
  get isSound() {
    return this.#child?.isWatched ?? false
  }

  async stop() {
    await this.#child?.stop()
    if (this.#isOurs) rmSync(join(this.options.folder, 'run.json'), { force: true })
  }

  async #waitForStatus() {
    const { folder } = this.options
    const until = Date.now() + longestStartMs
    while (Date.now() < until) {
      if (nodeStatus(folder)?.pid === this.#child?.process?.pid) return
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error(`The node does not start; its log is ${join(folder, 'log', 'node.log')}.`)
  }
}

/** @param {string} folder @returns {NodeStatus | null} what the node wrote down last of how it is */
export const nodeStatus = (folder) => {
  const file = join(folder, 'node-status.json')
  try {
    return existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null
  } catch {
    return null
  }
}

/** @param {string} folder whether this machine was made a node there */
export const isNode = (folder) => existsSync(join(folder, 'node.json'))

/** Makes this machine a node by the code of a site; throws where it does not come to that. @param {string} folder @param {string} code @param {'join' | 'standby'} as @returns {{ node: string, site: string, fingerprint: string }} */
export const becomeNode = (folder, code, as = 'join') => {
  const env = { ...process.env, ...nodeEnvironment(folder) }
  const { status, stdout, stderr } = spawnSync(process.execPath, [bundle('node.mjs'), as, code], { env, encoding: 'utf8' })
  if (status !== 0) throw new Error(stderr.trim() || stdout.trim())
  const told = stdout.split('\n').findLast((line) => line.startsWith('{"node"'))
  return JSON.parse(told ?? '{}')
}

/** @param {string} folder @returns {NodeJS.ProcessEnv} */
const nodeEnvironment = (folder) => ({
  NODE_ENV: 'production',
  CONDUIT_STATE: folder,
  CONDUIT_SEAL_KEY: secretOf(folder, 'seal'),
  CONDUIT_VERSION: JSON.parse(readFileSync(join(project, 'package.json'), 'utf8')).version,
})
