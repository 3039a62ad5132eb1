import type { Goal } from '../diagnosis/facts'

/** What is wrong with a base address; null: nothing. */
export const baseProblem = (text: string): string | null => {
  if (text === '') return 'Type the address that all calls begin with.'
  const url = parsed(text)
  if (!url) return 'An address begins with http:// or https://, and a host.'
  if (url.username || url.password) return 'Names and passwords have their own fields; they do not belong into an address.'
  if (url.search || url.hash || /[?#]/.test(text)) return 'A base address ends before “?” and “#”; those belong to an operation.'
  if (/[{}]/.test(text)) return 'A base address is the same for all calls: it holds no parameters.'
  return null
}

/** What is wrong with an address that may have a query; null: nothing. */
export const urlProblem = (text: string): string | null => {
  const url = parsed(text)
  if (!url) return 'An address begins with http:// or https://, and a host.'
  return url.username || url.password ? 'Names and passwords have their own fields; they do not belong into an address.' : null
}

const parsed = (text: string): URL | null => {
  if (!/^https?:\/\/[^/]/i.test(text) || !URL.canParse(text)) return null
  const url = new URL(text)
  return url.hostname === '' ? null : url
}

/** Where a base address leads: host, port, and whether it is encrypted. */
export const placeOfBase = (base: string): { host: string; port: number; isEncrypted: boolean } => {
  const { hostname, port, protocol } = new URL(base)
  const isEncrypted = protocol === 'https:'
  return { host: hostname.replace(/^\[|\]$/g, ''), port: port === '' ? (isEncrypted ? 443 : 80) : Number(port), isEncrypted }
}

interface Asked {
  base: string
  proxy?: { kind: 'none' } | { kind: 'http'; host: string; port: number }
}

/** Where its connections go: to the proxy, where one is set. */
export const goalOfBase = ({ base, proxy }: Asked): Goal | null => {
  if (proxy?.kind === 'http') return { speaks: 'HTTP', host: proxy.host, port: proxy.port, carries: 'tcp', usualPort: null }
  if (baseProblem(base) !== null) return null
  const { host, port, isEncrypted } = placeOfBase(base)
  return { speaks: isEncrypted ? 'HTTPS' : 'HTTP', host, port, carries: 'tcp', usualPort: isEncrypted ? 443 : 80 }
}
