import { AsyncLocalStorage } from 'node:async_hooks'
import type { OPCUAServer, ServerSession } from 'node-opcua'
import type { Writer } from '#shared/writes'
import { aroundWrites } from '../../opcua/internals'
import type { Guests } from './guests'

/** Who writes, for as long as a request to write is worked off: the package does not tell the variables. */
export const writing = new AsyncLocalStorage<Writer>()

/** The server itself never writes; a write without a client would be somebody who is gone already. */
export const unknownWriter: Writer = { who: 'unknown', via: 'client', place: '' }

/** Has every write of a client carry who it is: the client by name, as whom it signed in, and its address. */
export const noteWriters = (server: OPCUAServer, guests: Guests, outlet: string) =>
  aroundWrites(server, (session, write) => writing.run(writerOf(session, guests, outlet), write))

/** A client by its name, as whom it signed in, and its address. */
export const writerOf = (session: ServerSession | undefined, guests: Guests, outlet: string): Writer => {
  const client = session?.clientDescription?.applicationName?.text || session?.sessionName || 'unnamed client'
  const guest = guests.guestWith(session?.userIdentityToken)?.name ?? 'nobody'
  const who = `${client}, as ${guest}`
  return {
    who: who.slice(0, 200),
    via: 'client',
    place: `${outlet}, ${session?.channel?.remoteAddress ?? 'connection lost'}`.slice(0, 200),
  }
}
