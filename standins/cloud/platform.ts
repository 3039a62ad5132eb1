import { Site } from './site'

/** Faults that a person or a test switches on at the platform. */
export const cloudFaultText = {
  'token expired': 'lets nobody in: the token has ended',
  throttling: 'takes one message in five seconds, and asks for a rest else',
  'half later': 'takes every second value of a message only, and the rest when it comes again without this fault',
  'half refused': 'refuses every second value for good',
  away: 'closes every connection at once',
  silence: 'takes requests and answers none',
  'clock wrong': 'its clock is an hour behind, so that what is of now lies in its future',
  'small messages': 'takes no message of more than 2 kB',
} as const
export type CloudFault = keyof typeof cloudFaultText
export const isCloudFault = (name: unknown): name is CloudFault => typeof name === 'string' && Object.hasOwn(cloudFaultText, name)

export const cloudToken = 'harrow-sound-token'

/** How it went, in the words of HTTP. */
export interface Reply {
  status: number
  /** ms; null: it asks for no rest. */
  after: number | null
  detail: string
  answer: unknown
}

const restMs = 5000
const behindMs = 3_600_000
const smallBytes = 2048
const mostSites = 100

const refused = (status: number, detail: string, after: number | null = null): Reply => ({ status, after, detail, answer: null })
const done = (answer: unknown): Reply => ({ status: 200, after: null, detail: '', answer })

/** A platform that takes models and values of sites, whichever way they come. */
export class PortCloud {
  readonly sites = new Map<string, Site>()
  readonly faults = new Set<CloudFault>()
  private lastTaken = 0

  get clock() {
    return Date.now() - (this.faults.has('clock wrong') ? behindMs : 0)
  }

  setFault(fault: CloudFault, on: boolean) {
    if (on) this.faults.add(fault)
    else this.faults.delete(fault)
  }

  counts() {
    const total = { equipment: 0, streams: 0, values: 0, refused: 0 }
    for (const site of this.sites.values()) {
      total.equipment += site.equipment.size
      total.streams += site.streams.size
      total.values += site.values
      total.refused += site.refused
    }
    return total
  }

  clear() {
    this.sites.clear()
  }

  /** @param bytes of the body, as it came */
  handle(what: 'model' | 'steps' | 'values', siteName: string, token: string, body: unknown, bytes: number): Reply {
    if (token !== cloudToken || this.faults.has('token expired')) return refused(401, 'This token is not, or no longer, good.')
    if (this.faults.has('small messages') && bytes > smallBytes) return refused(413, `At most ${smallBytes} bytes.`)
    const site = this.siteOf(siteName)
    if (!site) return refused(404, 'There are as many sites as there may be.')
    if (what === 'model') return done(site.model())
    if (this.faults.has('throttling') && Date.now() - this.lastTaken < restMs) return refused(429, 'Too many messages.', restMs)
    this.lastTaken = Date.now()
    if (what === 'steps') return done({ results: listIn(body, 'steps').map((step) => site.carryOut(step)) })
    const half = this.faults.has('half later') ? 'later' : this.faults.has('half refused') ? 'for good' : null
    return done(site.take(listIn(body, 'parcels'), this.clock, half))
  }

  private siteOf(name: string): Site | null {
    const known = this.sites.get(name)
    if (known || this.sites.size >= mostSites) return known ?? null
    const site = new Site()
    this.sites.set(name, site)
    return site
  }
}

const listIn = (body: unknown, name: string): Record<string, unknown>[] => {
  const list = (body as Record<string, unknown> | null)?.[name]
  return Array.isArray(list) ? list.filter((one) => typeof one === 'object' && one !== null) : []
}
