import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { rotatingLog } from './rotatingLog.mjs'

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
 * @property {boolean} [ipc] a channel whose end tells the child that the launcher is gone, and on which it gives signs of life
 * @property {() => Promise<boolean>} [answers] for a child without a channel: whether it answers
 */

/** The first sign may take as long as starting does. */
const startMs = 120_000
const silentMs = 15_000
const lookEveryMs = 2000
/** Why the child before this one is no more; it writes that into the journal. */
export const returnedBecause = 'CONDUIT_RETURNED_BECAUSE'
const endedRun = 'CONDUIT_ENDED_RUN'

/** A process that is brought back whenever it ends on its own. */
export class Child {
  /** @type {import('node:child_process').ChildProcess | null} */
  process = null
  #stopping = false
  #failures = 0
  /** @type {NodeJS.Timeout | null} */
  #retry = null
  #log
  /** Until then a sign of life is waited for. */
  #silentUntil = 0
  #hangs = ''
  #because = ''
  /** Why it is about to end by itself, so that another one takes its place. */
  #leaves = ''
  /** The run that it said to be: the one after it may rely on its end. */
  #run = ''
  /** @type {NodeJS.Timeout | null} */
  #watch = null

  /** @param {ChildSpec} spec @param {string} logFolder @param {(text: string) => void} tell */
  constructor(spec, logFolder, tell) {
    this.spec = spec
    this.tell = tell
    this.#log = rotatingLog(join(logFolder, `${spec.name}.log`))
  }

  /** Whether it runs, or waits to be brought back. */
  get isWatched() {
    return this.process !== null || this.#retry !== null
  }

  start() {
    this.#retry = null
    const { command, args, env, uid, gid, ipc } = this.spec
    const startedAt = Date.now()
    const stdio = /** @type {import('node:child_process').StdioOptions} */ (['ignore', 'pipe', 'pipe', ...(ipc ? ['ipc'] : [])])
    const because = this.#because ? { [returnedBecause]: this.#because } : {}
    const ended = this.#run ? { [endedRun]: this.#run } : {}
    this.#run = ''
    const child = spawn(command, args, {
      env: { ...process.env, ...env, ...because, ...ended },
      stdio,
      detached: true,
      ...(uid ? { uid, gid } : {}),
    })
    this.process = child
    this.#silentUntil = startedAt + startMs
    child.on('message', (message) => this.#heard(message))
    this.#watch = setInterval(() => void this.#look(child), lookEveryMs)
    this.#watch.unref()
    child.stdout?.on('data', (chunk) => this.#log.write(chunk))
    child.stderr?.on('data', (chunk) => this.#log.write(chunk))
    child.once('error', (error) => this.tell(`${this.spec.name} could not be started: ${error.message}`))
    child.once('exit', (code, signal) => this.#ended(code, signal, startedAt))
  }

  /** A sign of life, and what it says of itself. @param {unknown} message */
  #heard(message) {
    this.#silentUntil = Date.now() + silentMs
    if (typeof message !== 'object' || message === null) return
    if ('run' in message) this.#run = String(message.run)
    if ('leaves' in message) this.#leaves = String(message.leaves)
  }

  /** @param {number | null} code @param {string | null} signal @param {number} startedAt */
  #ended(code, signal, startedAt) {
    this.process = null
    if (this.#watch) clearInterval(this.#watch)
    if (this.#stopping) return
    this.#because = this.#leaves || this.#hangs || `the one before ended (${signal ?? `code ${code}`})`
    this.#hangs = this.#leaves = ''
    this.#failures = Date.now() - startedAt > provenAfterMs ? 0 : this.#failures + 1
    const pause = this.#failures === 0 ? 0 : Math.min(longestPauseMs, 250 * 2 ** this.#failures) * (0.5 + Math.random() / 2)
    this.#say(`${this.spec.name} ended (${signal ?? `code ${code}`}); bringing it back`)
    this.#retry = setTimeout(() => this.start(), pause)
  }

  /** A child that hangs holds its ports and its place; it is ended, and the one after it says why. @param {import('node:child_process').ChildProcess} child */
  async #look(child) {
    const { answers, ipc, name } = this.spec
    if (answers) {
      if (await answers()) this.#silentUntil = Date.now() + silentMs
    } else if (!ipc) return
    if (this.#stopping || this.process !== child || Date.now() < this.#silentUntil) return
    this.#hangs = `the one before hung: no sign of life for ${silentMs / 1000} s`
    this.#say(`${name} gives no sign of life; ending it`)
    child.kill('SIGKILL')
  }

  /** @param {string} text */
  #say(text) {
    this.tell(text)
    this.#log.write(Buffer.from(`${JSON.stringify({ time: Date.now(), launcher: text })}\n`))
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
