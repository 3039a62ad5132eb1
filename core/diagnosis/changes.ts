import { duration } from '../text/duration'

/** What surrounded a path when somebody looked: what may change without anybody having touched its settings. */
export interface Circumstances {
  /** Unix ms. */
  at: number
  /** The last revision of the site that touched the thing. */
  revision: number
  address: string | null
  /** By which interface and router it is reached. */
  route: string | null
  /** The hardware address of the host, where it is on a network of ours. */
  hardware: string | null
  /** SHA-1 of the certificate that the far side showed. */
  certificate: string | null
  /** Of our own certificate. */
  ownCertificate: string
  /** What the far side says of itself: version, maker, state. */
  peer: string | null
  /** The far side's clock ahead of ours, ms. */
  clockAhead: number | null
  /** Our own addresses. */
  interfaces: readonly string[]
  /** When the engine started, Unix ms. */
  engineStarted: number
  /** How far the clock of this machine was set since the engine started, ms. */
  clockSet: number
}

/** Something that is otherwise than when it last worked. */
export interface Change {
  what: keyof typeof changeText
  before: string
  now: string
}

export const changeText = {
  revision: 'Its configuration',
  address: 'The address that its name stands for',
  route: 'The way from this machine',
  hardware: 'The network card at that address',
  certificate: 'The certificate of the far side',
  ownCertificate: 'Our certificate',
  peer: 'What the far side says of itself',
  clockAhead: 'The clock of the far side',
  interfaces: 'The addresses of this machine',
  engineStarted: 'Our engine',
  clockSet: 'The clock of this machine',
} as const

/** Clocks differ by a few seconds everywhere. */
const clockSlack = 30_000

/** What is otherwise now, the likeliest to matter first. */
export const changesSince = (before: Circumstances, now: Circumstances): Change[] => {
  const differs = (what: 'address' | 'route' | 'hardware' | 'certificate' | 'peer' | 'ownCertificate'): Change[] => {
    const [was, is] = [before[what], now[what]]
    // what could not be seen this time has not changed for that
    return was === null || is === null || was === is ? [] : [{ what, before: was, now: is }]
  }
  return [
    ...(before.revision === now.revision
      ? []
      : [{ what: 'revision' as const, before: `revision ${before.revision}`, now: `revision ${now.revision}` }]),
    ...differs('address'),
    ...differs('hardware'),
    ...differs('route'),
    ...differs('certificate'),
    ...differs('peer'),
    ...differs('ownCertificate'),
    ...moved('clockAhead', before.clockAhead, now.clockAhead),
    ...moved('clockSet', before.clockSet, now.clockSet),
    ...addressesMoved(before.interfaces, now.interfaces),
    ...(before.engineStarted === now.engineStarted
      ? []
      : [{ what: 'engineStarted' as const, before: 'the run before', now: `started anew ${new Date(now.engineStarted).toISOString()}` }]),
  ]
}

const moved = (what: 'clockAhead' | 'clockSet', before: number | null, now: number | null): Change[] =>
  before === null || now === null || Math.abs(now - before) <= clockSlack ? [] : [{ what, before: apart(before), now: apart(now) }]

const apart = (ms: number) => (Math.abs(ms) <= clockSlack ? 'right' : `${duration(Math.abs(ms))} ${ms > 0 ? 'ahead' : 'behind'}`)

const addressesMoved = (before: readonly string[], now: readonly string[]): Change[] => {
  const same = before.length === now.length && before.every((address) => now.includes(address))
  return same ? [] : [{ what: 'interfaces', before: before.join(', ') || 'none', now: now.join(', ') || 'none' }]
}
