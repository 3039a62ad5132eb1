import type { Logger } from 'pino'
import type { LeftParcel } from '#shared/nodeRpc'
import type { Seal } from '#security/seal'
import { farEngine, type FarStatus } from '../farNode/farEngine'
import type { FarDesk } from '../farNode/farJournal'
import type { NodeIdentity } from '../farNode/identity'
import type { Journal } from '../journal/journal'
import type { Rpc } from '../rpc/server'
import { Leftovers } from './leftovers'
import { LeftSpool } from './leftSpool'
import { tunnel } from './tunnel'

interface Around {
  identity: NodeIdentity
  /** Where it keeps what it has while it stands by. */
  folder: string
  certificateFolder: string
  seal: Seal
  version: string
  log: Logger
  rpc: Rpc
  run: string
  journal: Journal
  /** Where bridges keep what waits while this machine leads. */
  spool: string
  leftovers: Omit<ConstructorParameters<typeof Leftovers>[0], 'journal'>
  /** Gives its word not to begin to lead for so long. */
  promise(ms: number): boolean
}

export interface Standing {
  status(): FarStatus
  close(): Promise<void>
}

/** A machine that stands by: it runs what is placed on it, and its web side speaks with the machine that leads. */
export const standBy = async (around: Around): Promise<Standing> => {
  const { identity, folder, certificateFolder, seal, version, log, rpc, run, promise, journal } = around
  // it has the database: nothing of it waits for whoever leads
  const records: FarDesk = {
    journal: async (entries) => {
      for (const entry of entries) journal.take({ ...entry, source: entry.source === 'Engine' ? identity.name : entry.source })
    },
    writes: (all) => journal.takeWrites([...all]),
  }
  const far = await farEngine({ identity, stateFolder: folder, certificateFolder, seal, version, log, run, promise, records })
  const leftovers = new Leftovers({ ...around.leftovers, journal })
  const bring = async (parcel: LeftParcel) => far.line.site.left(parcel)
  const spool = new LeftSpool({ folder: around.spool, journal, bring })
  rpc.serveBy((socket) => (far.line.isConnected ? tunnel(socket, identity) : socket.close(1013, 'nobody leads')))
  const close = async () => {
    rpc.serveBy((socket) => socket.close(1013, 'it is about to lead'))
    await Promise.all([leftovers.close(), spool.close(), far.close()])
  }
  return { status: far.status, close }
}
