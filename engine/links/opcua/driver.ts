import { fault } from '#core/faults/catalogue'
import { endpointUrl, parseEndpoint } from '#core/opcua/endpointAddress'
import type { OpcuaSettings } from '#core/opcua/settings'
import type { LinkDriver } from '../driver'
import { climb } from './ladder'
import { findOffers, hangUp } from './find'
import { greet, openSocket } from './greet'
import { generalFault } from './refusals'
import { OpcuaLinkSession } from './session'

export const opcuaDriver: LinkDriver<OpcuaSettings> = {
  open: (context) => new OpcuaLinkSession(context),
  check: async function* (settings, signal, security) {
    const opened = yield* climb(settings, security, signal)
    if (opened) await hangUp(opened.client)
  },
  find: async (settings, { own }) => {
    const parsed = parseEndpoint(settings.address)
    if (!parsed.ok) throw fault('entry.unreadable', { problem: parsed.problem })
    const { host, port } = parsed.address
    const { connect, answer } = settings.patience
    const opened = await openSocket(host, port, connect)
    if ('fault' in opened) throw opened.fault
    const refusal = await greet(opened.socket, endpointUrl(parsed.address), host, port, answer)
    if (refusal) throw refusal
    try {
      const { servers, offers } = await findOffers(parsed.address, own, settings.patience)
      return { servers, offers }
    } catch (error) {
      throw generalFault(error, 'tell its endpoints', { host, port, answerMs: answer })
    }
  },
  tryRead: (settings, point) =>
    Promise.resolve({
      stages: [],
      readings: [],
      wordsFrom: point.address,
      goesTo: [],
      fault: fault('opcua.not-browsable', { name: settings.address }),
    }),
}
