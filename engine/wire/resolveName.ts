import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import type { Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { within } from '#pacing/within'

type Resolved = { address: string; evidence: string; ms: number } | { fault: Fault; ms: number }

/** Asks this machine's name service; a numeric address is one already. */
export const resolveName = async (host: string, port: number, ms: number): Promise<Resolved> => {
  const started = performance.now()
  if (isIP(host)) return { address: host, evidence: `${host}, numeric already`, ms: 0 }
  try {
    const { address } = await within(ms, lookup(host))
    return { address, evidence: `${host} is ${address}`, ms: performance.now() - started }
  } catch (error) {
    const code = (error as { code?: string }).code ?? 'EAI_AGAIN'
    return { fault: tcpFault({ message: (error as Error).message, code }, host, port), ms: performance.now() - started }
  }
}
