import type { RouteFound } from './facts'

/** Reading what the programs of the system say (iproute2, iputils). */

/** `ip -j route get ADDRESS`; null: this cannot be read. */
export const routeIn = (json: string): RouteFound | null => {
  const [first] = parsed<{ type?: string; dev?: string; prefsrc?: string; gateway?: string; via?: { host?: string } }>(json)
  if (!first) return null
  if (first.type === 'local' || first.dev === 'lo') return { outcome: 'this machine' }
  if (first.type === 'unreachable' || first.type === 'blackhole' || first.type === 'prohibit') return { outcome: 'none' }
  if (!first.dev) return null
  const from = first.prefsrc ?? ''
  const router = first.gateway ?? first.via?.host
  return router ? { outcome: 'through a router', by: first.dev, from, router } : { outcome: 'same network', by: first.dev, from }
}

/** `ip -j neigh show ADDRESS`: whether its network card answers (RFC 826, RFC 4861), and which it is; null: nobody asked for it lately. */
export const neighbourIn = (json: string): { outcome: 'answers' | 'silent'; hardware: string | null } | null => {
  const [first] = parsed<{ lladdr?: string; state?: string[] }>(json)
  const state = first?.state?.[0]
  if (!first || state === undefined) return null
  if (['REACHABLE', 'STALE', 'DELAY', 'PROBE', 'PERMANENT'].includes(state)) return { outcome: 'answers', hardware: first.lladdr ?? null }
  return state === 'FAILED' || state === 'INCOMPLETE' ? { outcome: 'silent', hardware: null } : null
}

export type EchoFound = { outcome: 'answers'; ms: number } | { outcome: 'silent' } | { outcome: 'stopped'; by: string; words: string }

/** What `ping` says, whether it ended well or not; null: it could not ask at all. */
export const echoIn = (text: string): EchoFound | null => {
  const answered = /time[=<]([\d.]+) ?ms/.exec(text)
  if (answered) return { outcome: 'answers', ms: Number(answered[1]) }
  const stopped =
    /^From (\S+?):? .*?((?:Packet filtered|Destination \w+ (?:Unreachable|Prohibited)|Communication prohibited|Time to live exceeded|Frag needed).*)$/im.exec(
      text,
    )
  if (stopped && !/Host Unreachable/i.test(stopped[2]!)) return { outcome: 'stopped', by: stopped[1]!, words: stopped[2]!.trim() }
  return /\d+ packets transmitted/.test(text) ? { outcome: 'silent' } : null
}

/** Parses what a program gave as JSON; what is none gives nothing. */
const parsed = <T>(json: string): T[] => {
  try {
    const value: unknown = JSON.parse(json)
    return Array.isArray(value) ? (value as T[]) : []
  } catch {
    return []
  }
}
