import { createHash, randomBytes } from 'node:crypto'

/** A secret to be carried by a browser or a program. Only its hash is kept. */
export const newToken = (): string => randomBytes(32).toString('base64url')

/** Tokens are random over 256 bits, so a plain hash is enough to look them up by. */
export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex')
