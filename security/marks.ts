import { createHmac, hkdfSync, randomBytes, timingSafeEqual } from 'node:crypto'

/** A mark that only this installation can have given, and for this name: random part, then HMAC-SHA-256 (RFC 2104). */
export const newMark = (name: string, secret: string): string => {
  const own = randomBytes(12).toString('base64url')
  return `${own}.${signature(own, name, secret)}`
}

export const isMarkOf = (mark: string, name: string, secret: string): boolean => {
  const [own, given, more] = mark.split('.')
  if (!own || !given || more !== undefined) return false
  const [a, b] = [Buffer.from(given), Buffer.from(signature(own, name, secret))]
  return a.length === b.length && timingSafeEqual(a, b)
}

const signature = (own: string, name: string, secret: string) =>
  createHmac('sha256', Buffer.from(hkdfSync('sha256', secret, '', 'marks of browsers', 32)))
    .update(`${own} ${name}`)
    .digest('base64url')
