import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { createSocket } from 'node:dgram'
import { createServer } from 'node:net'
import { join } from 'node:path'

const host = '127.0.0.1'

/** @param {number} port @returns {Promise<number | null>} the port, or null when it is taken, over TCP or UDP */
const tryPort = async (port) => ((await tryUdp(port)) ? tryTcp(port) : null)

/** @param {number} port @returns {Promise<boolean>} whether it is free */
const tryUdp = (port) =>
  new Promise((resolve) => {
    const socket = createSocket('udp4')
    socket.once('error', () => resolve(false))
    socket.bind(port, host, () => socket.close(() => resolve(true)))
  })

/** @param {number} port @returns {Promise<number | null>} */
const tryTcp = (port) =>
  new Promise((resolve) => {
    const server = createServer()
    server.once('error', () => resolve(null))
    server.listen(port, host, () => {
      const { port: found } = /** @type {import('node:net').AddressInfo} */ (server.address())
      server.close(() => resolve(found))
    })
  })

/** Below what systems give to outgoing connections: one of those could take the port before its server opens it. */
const usual = '12000-32000'

/** Tests that run at once take theirs from ranges of their own, as in `12000-22000`. */
const range = () => /** @type {[number, number]} */ ((process.env.CONDUIT_PORTS ?? usual).split('-').map(Number))

/** @param {number[]} taken @returns {Promise<number>} a port that is free now, and that no outgoing connection is given */
export const freePort = async (taken = []) => {
  const [lowest, highest] = range()
  for (let tries = 0; tries < 200; tries++) {
    const found = await tryPort(lowest + Math.floor(Math.random() * (highest - lowest)))
    if (found && !taken.includes(found)) return found
  }
  throw new Error(`None of 200 ports between ${lowest} and ${highest} is free at ${host}.`)
}

/**
 * Gives each service the port it had last time, else the one it would like, else any free one.
 * @template {string} Name
 * @param {string} folder
 * @param {Record<Name, number>} wishes 0: any
 * @returns {Promise<Record<Name, number>>}
 */
export const choosePorts = async (folder, wishes) => {
  const file = join(folder, 'ports.json')
  const last = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {}
  /** @type {Record<string, number>} */
  const chosen = {}
  for (const [name, wish] of Object.entries(wishes)) chosen[name] = await firstFree([last[name] ?? 0, Number(wish)], Object.values(chosen))
  writeFileSync(file, JSON.stringify(chosen, null, 2))
  return /** @type {Record<Name, number>} */ (chosen)
}

/** @param {number[]} wishes @param {number[]} taken */
const firstFree = async (wishes, taken) => {
  for (const wish of wishes) if (wish > 0 && !taken.includes(wish) && (await tryPort(wish)) === wish) return wish
  return freePort(taken)
}
