import type { IncomingMessage, ServerResponse } from 'node:http'
import type { HttpGuest } from './guests'
import type { Reply } from './reply'

/** A request that was let in. */
export interface Asked {
  request: IncomingMessage
  response: ServerResponse
  method: string
  /** Decoded. */
  path: string
  query: URLSearchParams
  guest: HttpGuest
  /** The address of who asks. */
  from: string
  /** By which it is remembered. */
  program: string
}

/** Null: it is answered already, or goes on being answered. */
export type Answered = Reply | null
export type Handler = (asked: Asked, parameters: Readonly<Record<string, string | undefined>>) => Answered | Promise<Answered>
