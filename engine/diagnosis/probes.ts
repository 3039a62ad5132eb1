import { lookup } from 'node:dns/promises'
import { createSocket } from 'node:dgram'
import { isIPv6, Socket } from 'node:net'
import type { Facts, FilterFound, RouteFound } from '#core/diagnosis/facts'
import { filterOf, type FirstPacket } from '#core/diagnosis/packetFilter'
import { serviceNamed, serviceOf, type Service } from '#core/diagnosis/service'
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

/** How many of some echo requests are answered, one every 200 ms (what anybody may ask for); null: none could be sent. */
export const echoesOf = async (address: string, sent = 10): Promise<NonNullable<Facts['echoes']> | null> => {
  const found = await run('ping', ['-n', '-c', String(sent), '-i', '0.2', '-W', '0.5', address], sent * 200 + systemMs)
  const counts = found.ok || found.why === 'failed' ? /(\d+) packets transmitted, (\d+) received/.exec(found.out) : null
  return counts && { sent: Number(counts[1]), answered: Number(counts[2]) }
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

/**
 * Asks a port without connections. A socket that is bound to one peer is told what the machines on the way say of it
 * (RFC 1122, 4.1.3.3); others are not.
 */
export const askDatagram = (host: string, port: number, question: string, ms: number): Promise<NonNullable<Facts['datagram']>> =>
  new Promise((resolve) => {
    const socket = createSocket(isIPv6(host) ? 'udp6' : 'udp4')
    let isOver = false
    const end = (found: NonNullable<Facts['datagram']>) => {
      if (isOver) return
      isOver = true
      clearTimeout(timer)
      socket.removeAllListeners().on('error', () => {})
      socket.close()
      resolve(found)
    }
    const refused = ({ code }: Error & { code?: string }) =>
      end(code === 'ECONNREFUSED' ? { outcome: 'refused' } : { outcome: 'stopped', words: code ?? 'not sent' })
    const timer = setTimeout(() => end({ outcome: 'silent' }), ms)
    socket.once('error', refused).once('message', () => end({ outcome: 'answers' }))
    // it may be ready only after the end
    socket.connect(port, host, () => isOver || socket.send(Buffer.from(question, 'hex'), (why) => why && refused(why)))
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
  const passes = await Promise.all(
    sizes.map(async (size) => {
      // the headers of IP and ICMP belong to the packet
      const asked = await run('ping', ['-n', '-c', '2', '-i', '0.2', '-W', '0.5', '-M', 'do', '-s', String(size - 28), address], 2000)
      return echoIn(asked.out)?.outcome === 'answers'
    }),
  )
  return sizes.find((_, at) => passes[at]) ?? null
}

const shownBytes = 24
const hexOf = (bytes: Uint8Array) => Buffer.from(bytes.subarray(0, shownBytes)).toString('hex').replace(/../g, '$& ').trim().toUpperCase()

/** What a service is that said this; null: nothing that is known. */
export const greetingIn = (bytes: Uint8Array): Facts['greeting'] => {
  const service = bytes.length > 0 ? serviceOf(bytes) : null
  return service ? { service, bytes: hexOf(bytes) } : null
}

/**
 * What a fresh connection is told: before it says anything, then in answer to questions of which each is one of a standard, and
 * none an order. Many services end a connection over which something else comes. Null: nothing that is known.
 * @param ms how long is waited for its first words
 */
export const greetingOf = async (host: string, port: number, ms: number): Promise<Facts['greeting']> => {
  const stayed: Service['id'][] = []
  for (const { of, bytes } of questions) {
    // what speaks first may take its time; an answer is due within a round trip
    const heard = await exchanged(host, port, bytes, bytes ? ms / 2 : ms)
    if (heard === 'no connection') return null
    const known = greetingIn(heard.bytes)
    if (known) return known
    if (of && !heard.wasEnded) stayed.push(of)
  }
  const [only, ...more] = stayed
  return only && more.length === 0 ? { service: serviceNamed(only), bytes: 'it ends connections over which anything else comes' } : null
}

const connectMs = 1000

interface Heard {
  bytes: Uint8Array
  /** By the other side. */
  wasEnded: boolean
}

const exchanged = (host: string, port: number, said: Uint8Array | null, ms: number): Promise<Heard | 'no connection'> =>
  new Promise((resolve) => {
    const socket = new Socket()
    let heard: Heard | 'no connection' = 'no connection'
    const end = () => {
      clearTimeout(timer)
      socket.on('error', () => {}).destroy()
      resolve(heard)
    }
    const ended = () => {
      if (heard !== 'no connection') heard.wasEnded = true
      end()
    }
    let timer = setTimeout(end, connectMs)
    socket.once('error', ended).once('end', ended).once('close', ended)
    socket.once('connect', () => {
      clearTimeout(timer)
      timer = setTimeout(end, ms)
      heard = { bytes: new Uint8Array(), wasEnded: false }
      if (said) socket.write(said)
    })
    socket.once('data', (bytes) => {
      heard = { bytes: new Uint8Array(bytes), wasEnded: false }
      end()
    })
    socket.connect({ host, port })
  })

const hex = (text: string) => Buffer.from(text.replaceAll(' ', ''), 'hex')
const endpoint = 'opc.tcp://conduit/'
const questions: { of: Service['id'] | null; bytes: Uint8Array | null }[] = [
  { of: null, bytes: null },
  // a ClientHello of TLS 1.2 with two common suites and no extensions (RFC 5246, 7.4.1.2)
  { of: 'tls', bytes: hex(`16030100 2f 0100002b 0303 ${'4b'.repeat(32)} 00 0004 c02f 009c 0100`) },
  { of: 'http', bytes: Buffer.from('OPTIONS * HTTP/1.1\r\nHost: conduit\r\nConnection: close\r\n\r\n') },
  // SSLRequest (PostgreSQL, 53.7)
  { of: 'postgresql', bytes: hex('00000008 04d2162f') },
  // Hello with buffers of 8192 bytes and no limits (OPC 10000-6, 7.1.2.3)
  {
    of: 'opcua',
    bytes: Buffer.concat([
      hex('48454c46 32000000 00000000 00200000 00200000 00000000 00000000'),
      hex(`${endpoint.length.toString(16).padStart(2, '0')}000000`),
      Buffer.from(endpoint),
    ]),
  },
  // a connection request of the transport, class 0, to rack 0, slot 1 (ISO 8073, 13.3; RFC 1006, 6)
  { of: 'iso-tcp', bytes: hex('0300 0016 11e0 0000 0001 00 c0010a c1020100 c2020101') },
  // one holding register of the device itself, and of unit 1 (MODBUS Application Protocol V1.1b3, 6.3)
  { of: 'modbus-tcp', bytes: hex('0001 0000 0006 ff 03 0000 0001 0002 0000 0006 01 03 0000 0001') },
  // CONNECT of 3.1.1, a clean session of nobody known (MQTT 3.1.1, 3.1)
  { of: 'mqtt', bytes: hex('100c 0004 4d515454 04 02 0005 0000') },
]
