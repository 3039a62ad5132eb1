import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import type { Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import type { CheckStep } from '#shared/status'

/** Makes the steps of a check; `titles` lists them in the order in which they are walked. */
export const checkSteps = <S extends string>(titles: Record<S, string>) => {
  const order = Object.keys(titles) as S[]
  const step = (name: S, rest: Pick<CheckStep, 'flow' | 'evidence'> & Partial<CheckStep>): CheckStep => ({
    step: name,
    title: titles[name],
    ms: null,
    fault: null,
    ...rest,
  })
  return {
    waiting: (name: S) => step(name, { flow: 'waiting', evidence: '' }),
    sound: (name: S, evidence: string, ms: number | null, more: Partial<CheckStep> = {}) =>
      step(name, { flow: 'flowing', evidence, ms, ...more }),
    failed: (name: S, why: Fault, ms: number | null, more: Partial<CheckStep> = {}) =>
      step(name, { flow: 'broken', evidence: why.evidence || why.what, ms, fault: why, ...more }),
    /** Neither sound nor failed: what cannot be known from here, or does not apply. */
    open: (name: S, flow: 'waiting' | 'off', evidence: string) => step(name, { flow, evidence }),
    notReached: (after: S): CheckStep[] =>
      order.slice(order.indexOf(after) + 1).map((name) => step(name, { flow: 'off', evidence: 'not reached' })),
  }
}

/** Rejects where the work takes longer; the work itself is left to end by its own time-outs. */
export const within = <T>(ms: number, work: Promise<T>, late = () => new Error(`no answer within ${ms} ms`)): Promise<T> => {
  let timer: NodeJS.Timeout
  const tooLate = new Promise<never>((_, reject) => (timer = setTimeout(() => reject(late()), ms)))
  return Promise.race([work, tooLate]).finally(() => clearTimeout(timer))
}

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
