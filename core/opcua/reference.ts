import type { Reference } from '../links/reference'
import { statusWords } from '../tags/quality'
import { dataTypes } from '../tags/types'
import type { OpcuaSettings } from './settings'

/** What servers answer about single nodes most often, with what to do about it. */
const answers: [status: string, next: string][] = [
  ['BadNodeIdUnknown', 'Browse for the node: it may lie in another namespace, or be called otherwise since.'],
  ['BadNodeIdInvalid', 'Look at the notation above; text after s= is taken with every space.'],
  ['BadAttributeIdInvalid', 'Choose a variable: objects and folders hold no value.'],
  ['BadNotReadable', 'Let the server give the node to readers.'],
  ['BadUserAccessDenied', 'Sign in as somebody who may, or let the server’s owner allow it.'],
  ['BadNotWritable', 'Make it a tag to read, or let the server allow writing.'],
  ['BadTypeMismatch', 'Give the tag the type that the server has.'],
  ['BadOutOfRange', 'Write what lies within the range of the node.'],
  ['BadIndexRangeNoData', 'Look at the way into the value: the member or element is not there.'],
  ['BadWaitingForInitialData', 'Wait: the server has no value yet.'],
  ['BadNotConnected', 'Look at the server’s own connection to its device.'],
]

/** Addresses, ways into a value, limits and answers of OPC UA (OPC 10000-3, -4 and -6), as this link has them. */
export const opcuaReference = (settings: OpcuaSettings): Reference => ({
  notation: [
    {
      form: 'nsu=urn:port:arm;s=Plug.Position',
      about: 'a node by the URI of its namespace and a text: stays true whatever the server renumbers',
    },
    { form: 'ns=2;s=Plug.Position', about: 'by the number of its namespace; the URI takes its place once the link is connected' },
    { form: 'i=2258', about: 'a node of the standard’s own namespace, by number' },
    { form: 'nsu=…;g=09087e75-8e5e-499b-954f-f2a9603db28a', about: 'by a GUID' },
    { form: 'nsu=…;b=M/RbKBsRVkePCePcx24oRA==', about: 'by bytes, as Base64' },
    { form: 'Zones[3].Limit', about: 'as member: the way into a structure or an array' },
  ],
  places: [
    {
      name: 'a variable',
      about: 'any node that holds a value; browsing fills in its type, access and unit',
      types: dataTypes,
      usual: 'float64',
      writable: true,
    },
  ],
  limits: [
    { what: 'Publishing interval', is: `${settings.reading.publishing} ms on this link; the server may give a longer one` },
    {
      what: 'Sampling interval',
      is: settings.reading.sampling === 0 ? 'as fast as the server can' : `${settings.reading.sampling} ms on this link`,
    },
    { what: 'Values that wait between two notifications', is: String(settings.reading.queue) },
    { what: 'Answers within', is: `${settings.patience.answer} ms` },
  ],
  errors: answers.map(([code, next]) => ({ code, words: statusWords(code), next })),
})
