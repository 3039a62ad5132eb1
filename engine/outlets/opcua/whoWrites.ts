import { AsyncLocalStorage } from 'node:async_hooks'
import type { OPCUAServer, ServerSession } from 'node-opcua'
import { visible } from '#core/text/visible'
import type { Writer } from '#shared/writes'
import { aroundWrites } from '../../opcua/internals'
import type { Guests } from './guests'

/** For whom a client asks, as it says (OPC 10000-4, 7.33, auditEntryId), for as long as its request is worked off. */
export const askedFor = new AsyncLocalStorage<string>()

/** Who writes, for as long as a request to write is worked off: the package does not tell the variables. */
export const writing = new AsyncLocalStorage<Writer>()

/** The server itself never writes; a write without a client would be somebody who is gone already. */
export const unknownWriter: Writer = { who: 'unknown', via: 'client', place: '' }

/** Has every write of a client carry who it is: the client by name, as whom it signed in, and its address. */
export const noteWriters = (server: OPCUAServer, guests: Guests, outlet: string) =>
  aroundWrites(server, (session, write) => writing.run(writerOf(session, guests, outlet), write))

/** For whom it says that it writes, the client by its name, as whom it signed in, and its address. */
export const writerOf = (session: ServerSession | undefined, guests: Guests, outlet: string): Writer => {
  const client = session?.clientDescription?.applicationName?.text || session?.sessionName || 'unnamed client'
  const guest = guests.guestWith(session?.userIdentityToken)?.name ?? 'nobody'
  const person = visible(askedFor.getStore() ?? '').slice(0, 80)
  const who = `${person ? `${person}, by ` : ''}${client}, as ${guest}`
  return {
    who: who.slice(0, 200),
    via: 'client',
    place: `${outlet}, ${session?.channel?.remoteAddress ?? 'connection lost'}`.slice(0, 200),
  }
}
