import { isIP } from 'node:net'
import type { Facts, Goal, RouteFound } from '#core/diagnosis/facts'
import { duration } from '#core/text/duration'
import type { Sighting } from '#shared/diagnosis'
import { isOwnAddress } from '../wire/interfaces'
import { addressesOf, askDatagram, echoesOf, echoOf, greetingOf, knock, neighbourAt, ownFilter, packetSizeTo, routeTo } from './probes'

/** What is measured further once a step failed, and what came of it in words. */
export interface Further {
  facts: Partial<Facts>
  looked: Sighting[]
  /** The network card of the host, where it is seen. */
  hardware: string | null
}

const knockMs = 800
const greetMs = 800
/** What Ethernet carries in a packet (RFC 894). */
const ethernet = 1500

const reachFaults = /^(tcp\.(refused|no-answer|unreachable|local-address)|name\.unknown|bacnet\.(nobody|not-found|silent))/
const silentFaults = /silent|late|no-confirm|\.tls$|not-|malformed|closed|broken|lost/

interface Asked {
  goal: Goal
  /** The numeric address, where the name is known. */
  address: string | null
  fault: Facts['fault']
  /** A person waits for it: a few packets more may be sent. */
  isAwaited: boolean
  /** It worked lately, and broke. */
  comesAndGoes: boolean
  /** Connections may be made that only look who answers. */
  mayGreet: boolean
}

/** Measures what the rules ask for, all at once. */
export const lookFurther = async (sought: Asked): Promise<Further> => {
  const { goal, address } = sought
  const [way, addresses, other, greeting, datagram, echoes] = await Promise.all([
    address === null ? null : wayTo(goal, address),
    isIP(goal.host) ? null : addressesOf(goal.host),
    usualPortOf(sought),
    listenerOf(sought),
    datagramOf(sought),
    echoesFor(sought),
  ])
  const packet = await packetFacts(sought, way?.facts)
  const facts: Partial<Facts> = {
    ...way?.facts,
    ...known({ addresses, other, packet, datagram, echoes }),
    ...(greeting === undefined ? {} : { greeting }),
  }
  return { facts, looked: sightingsOf(facts), hardware: way?.hardware ?? null }
}

/** Without what is null: that was not measured. */
const known = <T extends object>(facts: T): { [K in keyof T]?: NonNullable<T[K]> } =>
  Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== null)) as { [K in keyof T]?: NonNullable<T[K]> }

const usualPortOf = ({ goal, address, fault }: Asked) => {
  if (address === null || goal.carries !== 'tcp' || !reachFaults.test(fault.code)) return null
  return goal.usualPort === null || goal.usualPort === goal.port ? null : knock(address, goal.usualPort, knockMs)
}

const listenerOf = ({ goal, address, fault, mayGreet }: Asked) =>
  mayGreet && address !== null && goal.carries === 'tcp' && !reachFaults.test(fault.code)
    ? greetingOf(address, goal.port, greetMs)
    : undefined

const datagramOf = ({ goal, address, fault }: Asked) =>
  address === null || goal.question === undefined || !reachFaults.test(fault.code)
    ? null
    : askDatagram(address, goal.port, goal.question, knockMs)

/** Whether packets get lost shows in a series of them only. */
const echoesFor = ({ address, fault, comesAndGoes }: Asked) => {
  const isLoss =
    fault.code === 'link.unsteady' ||
    fault.code === 'link.lags' ||
    silentFaults.test(fault.code) ||
    (comesAndGoes && fault.code === 'tcp.no-answer')
  return isLoss && address !== null && !isOwnAddress(address) ? echoesOf(address) : null
}

interface Way {
  facts: Partial<Facts>
  hardware: string | null
}

/** Route, next machine, echo, our own packet filter. */
const wayTo = async ({ carries, port }: Goal, address: string): Promise<Way> => {
  if (isOwnAddress(address)) return { facts: { route: { outcome: 'this machine' } }, hardware: null }
  const [route, echo] = await Promise.all([routeTo(address), echoOf(address)])
  // only now: asking for the host made this machine look for its network card
  const [neighbour, filter] = await Promise.all([
    nextMachine(route, address),
    ownFilter({ hook: 'output', carries, to: address, port, ...(route && 'by' in route ? { by: route.by, from: route.from } : {}) }),
  ])
  const next = neighbour && { place: neighbour.place, outcome: neighbour.outcome }
  return {
    facts: known({ route, echo, filter, neighbour: next }),
    hardware: route?.outcome === 'same network' ? (neighbour?.hardware ?? null) : null,
  }
}

const nextMachine = async (route: RouteFound | null, address: string) => {
  if (route?.outcome !== 'same network' && route?.outcome !== 'through a router') return null
  const place = route.outcome === 'through a router' ? route.router : address
  const found = await neighbourAt(place)
  return found && { ...found, place }
}

const packetFacts = async ({ address, fault, isAwaited }: Asked, way: Partial<Facts> | undefined): Promise<Facts['packet'] | null> => {
  if (!isAwaited || address === null || way?.echo?.outcome !== 'answers' || !silentFaults.test(fault.code)) return null
  const passes = await packetSizeTo(address, ethernet)
  return passes === null ? null : { passes, own: ethernet }
}

const datagramTexts = {
  answers: 'it answers there',
  silent: 'no answer, and nobody says why',
  refused: 'its machine says that nobody listens on this port',
  stopped: 'it did not get through',
} as const

type Said = Pick<Sighting, 'outcome' | 'evidence'> & { ms?: number }
const wordsOf: { id: string; title: string; says(facts: Partial<Facts>): Said | null | undefined }[] = [
  {
    id: 'addresses',
    title: 'The name stands for',
    says: ({ addresses }) => (addresses ? { outcome: 'sound', evidence: addresses.join(', ') || 'nothing' } : null),
  },
  {
    id: 'route',
    title: 'Way out of this machine',
    says: ({ route }) => {
      if (!route) return { outcome: 'open', evidence: 'could not be read' }
      if (route.outcome === 'this machine') return { outcome: 'sound', evidence: 'it is this machine' }
      if (route.outcome === 'none') return { outcome: 'wrong', evidence: 'there is none' }
      const { by, from } = route
      const through = route.outcome === 'through a router' ? `, through the router ${route.router}` : ', on the same network'
      return { outcome: 'sound', evidence: `${by}, from ${from}${through}` }
    },
  },
  {
    id: 'neighbour',
    title: 'Next network card',
    says: ({ neighbour }) =>
      neighbour && {
        outcome: neighbour.outcome === 'answers' ? 'sound' : 'wrong',
        evidence: `${neighbour.place} ${neighbour.outcome === 'answers' ? 'answers' : 'does not answer'} on our segment`,
      },
  },
  {
    id: 'echo',
    title: 'Echo request',
    says: ({ echo, route }) => {
      if (!echo) return route?.outcome === 'this machine' ? null : { outcome: 'open', evidence: 'could not be sent from here' }
      if (echo.outcome === 'answers') return { outcome: 'sound', evidence: `answered in ${duration(echo.ms)}`, ms: echo.ms }
      return { outcome: 'wrong', evidence: echo.outcome === 'silent' ? 'no answer' : `${echo.by} says: ${echo.words}` }
    },
  },
  {
    id: 'filter',
    title: 'Firewall of this machine',
    says: ({ filter, route }) => {
      if (!filter)
        return route?.outcome === 'this machine'
          ? null
          : { outcome: 'open', evidence: 'its rules could not be read by us; as root: nft list ruleset' }
      if (filter.outcome === 'lets through') return { outcome: 'sound', evidence: 'read: no rule stops it' }
      return { outcome: filter.outcome === 'stops' ? 'wrong' : 'open', evidence: `${filter.place}: ${filter.rule}` }
    },
  },
  {
    id: 'other',
    title: 'Its usual port',
    says: ({ other }) =>
      other && {
        outcome: other.outcome === 'open' ? 'sound' : 'open',
        evidence: `TCP ${other.port} ${other.outcome === 'open' ? 'is open' : other.outcome === 'refused' ? 'is refused, too' : 'is silent, too'}`,
      },
  },
  {
    id: 'datagram',
    title: 'Asked from another port',
    says: ({ datagram }) =>
      datagram && {
        outcome: datagram.outcome === 'answers' ? 'sound' : datagram.outcome === 'silent' ? 'open' : 'wrong',
        evidence: datagramTexts[datagram.outcome] + ('words' in datagram ? `: ${datagram.words}` : ''),
      },
  },
  {
    id: 'greeting',
    title: 'What listens there',
    says: ({ greeting }) =>
      greeting === undefined
        ? null
        : greeting === null
          ? { outcome: 'open', evidence: 'it says nothing that is known here' }
          : { outcome: 'sound', evidence: `${greeting.service.title}: ${greeting.bytes}` },
  },
  {
    id: 'echoes',
    title: 'Echo requests in a row',
    says: ({ echoes }) =>
      echoes && {
        outcome: echoes.answered === echoes.sent ? 'sound' : 'wrong',
        evidence: `${echoes.answered} of ${echoes.sent} answered`,
      },
  },
  {
    id: 'packet',
    title: 'Size of packets',
    says: ({ packet }) =>
      packet && { outcome: packet.passes < packet.own ? 'wrong' : 'sound', evidence: `${packet.passes} of ${packet.own} bytes pass whole` },
  },
]

const sightingsOf = (facts: Partial<Facts>): Sighting[] =>
  wordsOf.flatMap(({ id, title, says }) => {
    const said = says(facts)
    return said ? [{ id, title, outcome: said.outcome, evidence: said.evidence, ms: said.ms ?? null }] : []
  })
