import { lookup } from 'node:dns/promises'
import { Socket } from 'node:net'
import type { Facts, FilterFound, RouteFound } from '#core/diagnosis/facts'
import { filterOf, type FirstPacket } from '#core/diagnosis/packetFilter'
import { serviceOf } from '#core/diagnosis/service'
import { echoIn, neighbourIn, routeIn, type EchoFound } from '#core/diagnosis/systemText'
import { within } from '#pacing/within'
import { run } from './command'

/** Measurements beside the steps of a path, each bounded in time. None rejects: what could not be measured is null. */

const systemMs = 1500
const echoMs = 1000

export const routeTo = async (address: string): Promise<RouteFound | null> => {
  const asked = await run('ip', ['-j', 'route', 'get', address], systemMs)
  if (asked.ok) return routeIn(asked.out)
  return /unreachable|No route to host/i.test(asked.out) ? { outcome: 'none' } : null
}

export const neighbourAt = async (address: string) => {
  const asked = await run('ip', ['-j', 'neigh', 'show', address], systemMs)
  return asked.ok ? neighbourIn(asked.out) : null
}

export const echoOf = async (address: string): Promise<EchoFound | null> => {
  const asked = await run('ping', ['-n', '-c', '1', '-W', String(echoMs / 1000), address], echoMs + systemMs)
  return asked.ok || asked.why === 'failed' ? echoIn(asked.out) : null
}

/** Null: there is no packet filter of this kind, or its rules may not be read by us. */
export const ownFilter = async (packet: FirstPacket): Promise<FilterFound | null> => {
  const [json, texts] = await Promise.all([
    run('nft', ['-j', 'list', 'ruleset'], systemMs),
    run('nft', ['-a', 'list', 'ruleset'], systemMs),
  ])
  if (!json.ok || !texts.ok) return null
  try {
    return filterOf(json.out, texts.out, packet)
  } catch {
    return null
  }
}

/** Whether another port of the same host is open. */
export const knock = (host: string, port: number, ms: number): Promise<NonNullable<Facts['other']>> =>
  new Promise((resolve) => {
    const socket = new Socket()
    const end = (outcome: 'open' | 'refused' | 'silent') => {
      clearTimeout(timer)
      socket.on('error', () => {}).destroy()
      resolve({ port, outcome })
    }
    const timer = setTimeout(() => end('silent'), ms)
    socket.once('error', ({ code }: Error & { code?: string }) => end(code === 'ECONNREFUSED' ? 'refused' : 'silent'))
    socket.once('connect', () => end('open'))
    socket.connect({ host, port })
  })

/** Everything that a name stands for. */
export const addressesOf = async (host: string): Promise<string[] | null> => {
  try {
    return [...new Set((await within(systemMs, lookup(host, { all: true }))).map(({ address }) => address))]
  } catch {
    return null
  }
}

/** The largest packet that passes whole, out of the sizes that networks have; null: none that could be measured. */
export const packetSizeTo = async (address: string, own: number): Promise<number | null> => {
  const sizes = [own, 1492, 1450, 1400, 1300, 1200, 576].filter((size) => size <= own)
  for (const size of sizes) {
    // the headers of IP and ICMP belong to the packet
    const asked = await run('ping', ['-n', '-c', '1', '-W', '0.5', '-M', 'do', '-s', String(size - 28), address], 2000)
    if (!asked.ok && asked.why !== 'failed') return null
    if (echoIn(asked.out)?.outcome === 'answers') return size
  }
  return null
}

const shownBytes = 24
const hexOf = (bytes: Uint8Array) => Buffer.from(bytes.subarray(0, shownBytes)).toString('hex').replace(/../g, '$& ').trim().toUpperCase()

/** What a service is that said this; null: nothing that is known. */
export const greetingIn = (bytes: Uint8Array): Facts['greeting'] => {
  const service = bytes.length > 0 ? serviceOf(bytes) : null
  return service ? { service, bytes: hexOf(bytes) } : null
}

/**
 * What a fresh connection is told: before it says anything, then in answer to greetings that no service takes for an order
 * (TLS, HTTP, and the question of PostgreSQL for TLS). Null: it stays silent.
 */
export const greetingOf = async (host: string, port: number, ms: number): Promise<Facts['greeting']> => {
  for (const said of [null, tlsHello, httpQuestion, sslQuestion]) {
    const heard = await exchanged(host, port, said, ms)
    if (heard === 'no connection') return null
    const known = greetingIn(heard)
    if (known) return known
  }
  return null
}

const exchanged = (host: string, port: number, said: Uint8Array | null, ms: number): Promise<Uint8Array | 'no connection'> =>
  new Promise((resolve) => {
    const socket = new Socket()
    let heard: Uint8Array | 'no connection' = 'no connection'
    const end = () => {
      clearTimeout(timer)
      socket.on('error', () => {}).destroy()
      resolve(heard)
    }
    const timer = setTimeout(end, ms)
    socket.once('error', end).once('close', end)
    socket.once('connect', () => {
      heard = new Uint8Array()
      if (said) socket.write(said)
    })
    socket.once('data', (bytes) => {
      heard = new Uint8Array(bytes)
      end()
    })
    socket.connect({ host, port })
  })

/** A ClientHello of TLS 1.2 with two common suites and no extensions (RFC 5246, 7.4.1.2). */
const tlsHello = Buffer.from(`16030100 2f 0100002b 0303 ${'4b'.repeat(32)} 00 0004 c02f 009c 0100`.replace(/ /g, ''), 'hex')
const httpQuestion = Buffer.from('OPTIONS * HTTP/1.1\r\nHost: conduit\r\nConnection: close\r\n\r\n')
/** SSLRequest (PostgreSQL, 53.7). */
const sslQuestion = Buffer.from('0000000804d2162f', 'hex')
