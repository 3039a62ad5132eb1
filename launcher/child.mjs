import { spawn } from 'node:child_process'
import { createWriteStream, existsSync, renameSync, statSync } from 'node:fs'
import { join } from 'node:path'

const largestLog = 10 * 1024 * 1024
const provenAfterMs = 10_000
const longestPauseMs = 10_000

/**
 * @typedef {object} ChildSpec
 * @property {string} name
 * @property {string} command
 * @property {string[]} args
 * @property {NodeJS.ProcessEnv} [env]
 * @property {number} [uid]
 * @property {number} [gid]
 * @property {NodeJS.Signals} [stopSignal]
 * @property {boolean} [ipc] a channel whose end tells the child that the launcher is gone
 */

/** A process that is brought back whenever it ends on its own. */
export class Child {
  /** @type {import('node:child_process').ChildProcess | null} */
  process = null
  #stopping = false
  #failures = 0
  /** @type {NodeJS.Timeout | null} */
  #retry = null
  #log

  /** @param {ChildSpec} spec @param {string} logFolder @param {(text: string) => void} tell */
  constructor(spec, logFolder, tell) {
    this.spec = spec
    this.tell = tell
    this.#log = rotatingLog(join(logFolder, `${spec.name}.log`))
  }

  start() {
    const { command, args, env, uid, gid, ipc } = this.spec
    const startedAt = Date.now()
    const stdio = /** @type {import('node:child_process').StdioOptions} */ (['ignore', 'pipe', 'pipe', ...(ipc ? ['ipc'] : [])])
    const child = spawn(command, args, { env: { ...process.env, ...env }, stdio, detached: true, ...(uid ? { uid, gid } : {}) })
    this.process = child
    child.stdout?.on('data', (chunk) => this.#log.write(chunk))
    child.stderr?.on('data', (chunk) => this.#log.write(chunk))
    child.once('error', (error) => this.tell(`${this.spec.name} could not be started: ${error.message}`))
    child.once('exit', (code, signal) => this.#ended(code, signal, startedAt))
  }

  /** @param {number | null} code @param {string | null} signal @param {number} startedAt */
  #ended(code, signal, startedAt) {
    this.process = null
    if (this.#stopping) return
    this.#failures = Date.now() - startedAt > provenAfterMs ? 0 : this.#failures + 1
    const pause = this.#failures === 0 ? 0 : Math.min(longestPauseMs, 250 * 2 ** this.#failures) * (0.5 + Math.random() / 2)
    this.tell(`${this.spec.name} ended (${signal ?? `code ${code}`}); bringing it back`)
    this.#retry = setTimeout(() => this.start(), pause)
  }

  /** Asks it to end, and ends it after a while. */
  async stop() {
    this.#stopping = true
    if (this.#retry) clearTimeout(this.#retry)
    const child = this.process
    if (child) await endProcess(child, this.spec.stopSignal ?? 'SIGTERM')
    this.#log.end()
  }
}

/** @param {import('node:child_process').ChildProcess} child @param {NodeJS.Signals} signal */
const endProcess = (child, signal) =>
  new Promise((resolve) => {
    const force = setTimeout(() => child.kill('SIGKILL'), 8000)
    child.once('exit', () => {
      clearTimeout(force)
      resolve(undefined)
    })
    child.kill(signal)
  })

/** Keeps at most two files of a process's output. @param {string} path */
const rotatingLog = (path) => {
  let size = existsSync(path) ? statSync(path).size : 0
  let stream = createWriteStream(path, { flags: 'a' })
  const turn = () => {
    stream.end()
    renameSync(path, `${path}.1`)
    stream = createWriteStream(path, { flags: 'a' })
    size = 0
  }
  return {
    /** @param {Buffer} chunk */
    write(chunk) {
      if (size > largestLog) turn()
      size += chunk.length
      stream.write(chunk)
    },
    end: () => stream.end(),
  }
}
