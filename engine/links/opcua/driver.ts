import { fault } from '#core/faults/catalogue'
import { endpointUrl, parseEndpoint } from '#core/opcua/endpointAddress'
import type { OpcuaSettings } from '#core/opcua/settings'
import type { LinkDriver } from '../driver'
import { climb } from './ladder'
import { findOffers, hangUp } from '../../opcua/find'
import { greet } from '../../opcua/greet'
import { generalFault } from '../../opcua/refusals'
import { OpcuaLinkSession } from './session'

export const opcuaDriver: LinkDriver<OpcuaSettings> = {
  open: (context) => new OpcuaLinkSession(context),
  check: async function* (settings, signal, { security, wire }) {
    const opened = yield* climb(settings, security, signal, wire)
    if (opened) await hangUp(opened.client)
  },
  find: async (settings, { security, wire }) => {
    const parsed = parseEndpoint(settings.address)
    if (!parsed.ok) throw fault('entry.unreadable', { problem: parsed.problem })
    const { host, port } = parsed.address
    const { connect, answer } = settings.patience
    const socket = await wire.dial({ host, port, connectMs: connect })
    const refusal = await greet(socket, endpointUrl(parsed.address), host, port, answer)
    if (refusal) throw refusal
    try {
      const { servers, offers } = await findOffers(parsed.address, security.own, settings.patience, wire)
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
      fault: fault('link.not-browsable', { name: settings.address }),
    }),
}
