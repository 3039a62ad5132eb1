import type { Socket } from 'node:net'
import type { TlsSettings } from '#core/contracts/protection'
import { fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import type { HttpSettings } from '#core/http/settings'
import { tlsOver } from '../../wire/tlsOver'
import type { Wire } from '../../wire/wire'
import type { Access } from './access'
import { tunnelTo } from './proxy'

/** A connection to a web API, encrypted where its address says so. */
export interface Line {
  socket: Socket
  /** What was agreed on; null: nothing is encrypted. */
  agreed: string | null
}

type Wanted = Pick<HttpSettings, 'base' | 'trust' | 'proxy' | 'patience'>
type Around = Pick<Access, 'pair' | 'proxyPassword'> & { wire: Wire; shown?: (certificate: string) => void }

/** Connects, and agrees on TLS; rejects with a Fault. */
export const dialApi = async (settings: Wanted, around: Around, signal?: AbortSignal): Promise<Line> => {
  const { host, port, isEncrypted } = placeOfBase(settings.base)
  const { wire, pair, shown } = around
  const socket = await connected(settings, around, signal)
  socket.setNoDelay(true)
  const line = isEncrypted ? await secured(socket, settings, { host, port, pair, shown }) : { socket, agreed: null }
  if (isEncrypted || settings.proxy.kind !== 'none') wire.attendOne(line.socket, `${host}:${port}`)
  return line
}

const connected = ({ base, proxy, patience }: Wanted, { wire, proxyPassword }: Around, signal?: AbortSignal): Promise<Socket> => {
  const { host, port, isEncrypted } = placeOfBase(base)
  const aborting = signal ? { signal } : {}
  if (proxy.kind === 'none') return wire.dial({ host, port, connectMs: patience.connect, isSeen: !isEncrypted, ...aborting })
  return tunnelTo({ host, port }, { proxy, password: proxyPassword, connectMs: patience.connect, wire, ...aborting })
}

const secured = async (
  socket: Socket,
  { trust, patience }: Wanted,
  { host, port, pair, shown }: { host: string; port: number; pair: Access['pair']; shown: Around['shown'] },
): Promise<Line> => {
  const tls: TlsSettings = { mode: trust.verify ? 'verified' : 'encrypted', authority: trust.authority }
  try {
    const { stream, agreed } = await tlsOver(socket, {
      host,
      tls,
      within: patience.connect,
      pair,
      speaks: ['http/1.1'],
      ...(shown ? { shown } : {}),
    })
    return { socket: stream, agreed }
  } catch (error) {
    const problem = (error as Error).message
    throw fault('http.tls', { host, port, problem }, problem) as unknown as Error
  }
}
