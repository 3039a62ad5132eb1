import { fault, type Fault } from '#core/faults/catalogue'
import type { OpcuaSettings } from '#core/opcua/settings'
import type { LinkDriver } from '../driver'
import type { Wire } from '../../wire/wire'
import { findOffers } from '../../opcua/find'
import { climb, leave } from './ladder'
import { reachByAwaiting, reachByDialling, type Reached } from './reaching'
import { generalFault } from '../../opcua/refusals'
import { OpcuaLinkSession } from './session'

export const opcuaDriver: LinkDriver<OpcuaSettings> = {
  open: (context) => new OpcuaLinkSession(context),
  check: async function* (settings, signal, { security, wire }) {
    const opened = yield* climb(settings, security, signal, wire)
    if (opened) await leave(opened)
  },
  find: async (settings, { security, wire }) => {
    const reached = await reachedNow(settings, wire)
    const { host, port } = reached.address
    try {
      const { servers, offers } = await findOffers(reached.address, security.own, settings.patience, wire, reached.transports)
      return { servers, offers }
    } catch (error) {
      throw generalFault(error, 'tell its endpoints', { host, port, answerMs: settings.patience.answer })
    } finally {
      reached.leave()
    }
  },
  tryRead: (settings, point) =>
    Promise.resolve({
      stages: [],
      readings: [],
      wordsFrom: point.address,
      goesTo: [],
      fault: fault('link.not-browsable', { name: settings.address || 'The server' }),
    }),
}

/** Rejects with the fault of the step that failed. */
const reachedNow = async (settings: OpcuaSettings, wire: Wire): Promise<Reached> => {
  const { signal } = new AbortController()
  const steps = settings.awaits ? reachByAwaiting(settings.awaits, signal) : reachByDialling(settings, signal, wire)
  let why: Fault | null = null
  for (let next = await steps.next(); ; next = await steps.next()) {
    if (!next.done) why ??= next.value.fault
    else if (next.value) return next.value
    else throw why
  }
}
