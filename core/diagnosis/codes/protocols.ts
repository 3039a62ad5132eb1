import { errorCodes as codesByNumber } from '../../bacnet/names/errorCodes'
import { abortMeaning, errorMeaning, rejectMeaning } from '../../bacnet/codes'
import { statusText } from '../../http/status'
import { itemMeaning, namedCodes, requestMeaning } from '../../isotcp/codes'
import { exceptionMeaning, namedExceptions } from '../../modbus/exceptions'
import { reasonOf } from '../../mqtt/reasons'
import { qualityName, severityOf, statusCodeNamed, statusWords } from '../../tags/quality'
import { explained, hex, isMeant, type CodeFamily, type Explanation, type Pasted, type Row } from './explanation'

/** Codes of the protocols that links and outlets speak. */

/** Of OPC UA those that people ask about; all others by their name and words. */
const uaRows: Readonly<Record<string, readonly [causes: readonly string[], checks: readonly string[]]>> = {
  BadSecurityChecksFailed: [
    ['The server does not trust our certificate; it says no more, so that nobody learns from it.', 'Policy or mode differ.'],
    ['On the server: its list of refused certificates; trust ours.', 'Its log says which check it was.'],
  ],
  BadCertificateUntrusted: [['Our certificate is not in its list of trusted ones.'], ['On the server: trust it.']],
  BadCertificateUriInvalid: [
    ['The application URI in the certificate differs from the one that the program tells.'],
    ['Have the certificate made anew by the program itself.'],
  ],
  BadCertificateHostNameInvalid: [
    ['The certificate is for another host than the one that was dialled.'],
    ['Dial the name that it is for, or have it made anew with this host in it.'],
  ],
  BadCertificateTimeInvalid: [
    ['Expired or not yet valid; or one of the two clocks is wrong.'],
    ['Compare both clocks with a third.', 'Have it renewed.'],
  ],
  BadCertificateInvalid: [['The certificate is damaged or of a kind that is not taken.'], ['Have it made anew.']],
  BadCertificateUseNotAllowed: [['The certificate was made for another purpose.'], ['Have it made as an application certificate.']],
  BadCertificateRevocationUnknown: [
    ['The list of certificates that were called back is missing or old.'],
    ['Put the list of its authority (CRL) into the trust list.'],
  ],
  BadCertificateChainIncomplete: [['A certificate of an authority in between is missing.'], ['Put the whole chain there.']],
  BadSecurityPolicyRejected: [
    ['The server does not offer this policy any more: old ones are switched off.'],
    ['Choose one that is offered.'],
  ],
  BadSecurityModeRejected: [['The server does not offer this mode.'], ['Choose one that is offered.']],
  BadIdentityTokenRejected: [
    ['Name or password is wrong, or the account may not sign in.'],
    ['Type them again; look at the account there.'],
  ],
  BadIdentityTokenInvalid: [
    ['What proves who we are is not what the endpoint asks for; or the secret was encrypted for another certificate.'],
    ['Look which ways to sign in the endpoint offers.'],
  ],
  BadUserAccessDenied: [['The user is known, and may not do this.'], ['Have the right given there; or sign in as another user.']],
  BadNotReadable: [['The node may not be read by this user.'], ['Look at its access level.']],
  BadNotWritable: [['The node may not be written by this user.'], ['Look at its access level.']],
  BadTypeMismatch: [['The value is of another type than the node.'], ['Write it in the type of the node: some servers convert nothing.']],
  BadOutOfRange: [['The value is outside of what the node takes.'], ['Look at its range.']],
  BadNodeIdUnknown: [
    ['The program was loaded anew, and the node has another id.', 'The index of its namespace has changed.'],
    ['Browse to it again; go by the URI of the namespace.'],
  ],
  BadAttributeIdInvalid: [['The node has no such attribute: it may be an object, not a variable.'], ['Browse to the variable below it.']],
  BadTooManySessions: [['The server takes no further client.'], ['End other clients; raise its limit.']],
  BadTooManySubscriptions: [['It takes no further subscription.'], ['End other clients; use fewer intervals.']],
  BadTooManyMonitoredItems: [['It takes no further items.'], ['Take fewer, or let some be read instead.']],
  BadTooManyOperations: [['More at once than it takes.'], ['Lower how many are asked for at once.']],
  BadTooManyPublishRequests: [['It holds as many open questions as it may.'], ['Fewer subscriptions in one session.']],
  BadSessionIdInvalid: [
    ['The session has ended: the server was started anew, or we were silent for too long.'],
    ['It is opened anew by itself.'],
  ],
  BadSessionClosed: [['The session was closed.'], ['It is opened anew by itself.']],
  BadSessionNotActivated: [['The client asked before it had signed in.'], ['It is the client’s own mistake.']],
  BadSubscriptionIdInvalid: [['The subscription has ended meanwhile.'], ['It is made anew by itself.']],
  BadSecureChannelIdInvalid: [['The secure channel has ended or was not renewed in time.'], ['Compare the clocks; look at the network.']],
  BadSecureChannelClosed: [
    ['The far side closed it, often because it does not trust our certificate.'],
    ['Look in its list of refused certificates.'],
  ],
  BadConnectionClosed: [['The connection ended.'], ['Look at the path check.']],
  BadTimeout: [['No answer in time.'], ['Look at load and network; raise “answers within”.']],
  BadRequestTimeout: [['The answer came later than was asked for.'], ['Look at its load.']],
  BadTcpEndpointUrlInvalid: [
    ['The server does not know the address by which it was called.'],
    ['Type the address as its own settings show it.'],
  ],
  BadTcpMessageTooLarge: [['A message is larger than one side takes.'], ['Ask for fewer items at once; raise the size of messages.']],
  BadEncodingLimitsExceeded: [['An array or text is longer than one side takes.'], ['Raise the limit, or read a part of it.']],
  BadServerNotConnected: [
    ['The program was started, and the server behind it is not reached.'],
    ['Look at the server’s own connection to its device.'],
  ],
  BadNotConnected: [['The variable has a source, and that is not connected.'], ['Look at the server’s own connection to its device.']],
  BadNoCommunication: [['The server’s device does not answer.'], ['Look at the device behind it.']],
  BadWaitingForInitialData: [['The server has not heard of its source yet.'], ['Wait; then look at its device.']],
  BadDeviceFailure: [['The device behind it reports a failure.'], ['Look at the device.']],
  BadSensorFailure: [['The sensor says that it has no value.'], ['Look at the sensor and its cable.']],
  BadOutOfService: [['It was taken out of service.'], ['Look who switched it off.']],
  BadConfigurationError: [['The address that the server has for it is not right.'], ['Look at it in the server’s configuration.']],
  BadShutdown: [['The server is being shut down.'], ['Wait until it is back.']],
  BadServerHalted: [['The server does not run.'], ['Start it.']],
  BadServiceUnsupported: [
    ['The server does not offer this service.'],
    ['Use another way: read instead of history, poll instead of notifications.'],
  ],
  BadMonitoredItemFilterUnsupported: [['It takes no deadband of this kind.'], ['Leave it away; use a longer interval.']],
  BadNoData: [['There is nothing for this time.'], ['Look whether it is recorded there.']],
  BadUnexpectedError: [['It failed and does not say why.'], ['Look at the server’s log at that moment.']],
}

const uaTitle = 'OPC UA status code'
const uaOf = (name: string, code: number): Explanation => {
  const [causes = [], checks = []] = uaRows[name] ?? []
  const severity = severityOf(code)
  const row: Row = [name, `${severity}: ${statusWords(name) || 'as it should be'}`, causes, checks]
  return explained(uaTitle, `${hex(code, 8)} · ${code}`, row)
}

const opcua: CodeFamily = {
  title: uaTitle,
  find: ({ words, numbers }) => {
    const byName = [...words].flatMap((word) => {
      const code = /^(Good|Uncertain|Bad)[A-Z]\w*$/.test(word) ? statusCodeNamed(word) : undefined
      return code === undefined ? [] : [uaOf(word, code)]
    })
    const byNumber = numbers.flatMap((number) => {
      // the lower bits tell of limits and of how it was looked up; the code is above them (OPC 10000-4, 7.39)
      const code = (number & 0xffff0000) >>> 0
      const name = number > 0xffff ? qualityName(code) : ''
      return /^(Good|Uncertain|Bad)/.test(name) && !byName.some((one) => one.name === name) ? [uaOf(name, code)] : []
    })
    return [...byName, ...byNumber]
  },
}

const modbus: CodeFamily = {
  title: 'Modbus exception',
  find: (pasted) =>
    namedExceptions.flatMap((code) => {
      const { name, words, next } = exceptionMeaning(code)
      const isThere =
        pasted.text.toUpperCase().includes(name) ||
        (meantNumbers(pasted, /modbus|exception/i).includes(code) && pasted.numbers.includes(code))
      return isThere ? [explained('Modbus exception', `exception ${code}`, [name, words, [], [next]])] : []
    }),
}

const meantNumbers = (pasted: Pasted, beside: RegExp): readonly number[] => (isMeant(pasted, beside) ? pasted.numbers : [])

const mqtt: CodeFamily = {
  title: 'MQTT reason code',
  find: (pasted) =>
    meantNumbers(pasted, /mqtt|connack|reason code|return code|broker|disconnect/i).flatMap((code) => {
      const { name, words } = reasonOf(code)
      if (name === 'unknown' || code === 0) return []
      const family = code < 0x80 ? 'MQTT 3.1.1 return code' : 'MQTT 5.0 reason code'
      return [
        explained(family, code < 0x80 ? String(code) : `${hex(code, 2)} · ${code}`, [
          name,
          words,
          mqttCauses[code] ?? [],
          mqttChecks[code] ?? ['Look at the broker’s log.'],
        ]),
      ]
    }),
}
const mqttCauses: Readonly<Record<number, readonly string[]>> = {
  0x8e: ['Two clients with one client id: each throws the other out.'],
  0x8d: ['Nothing passed for longer than was agreed: the network, or a program that hangs.'],
  4: ['Name or password is wrong.'],
  5: ['The account may not connect, or not with this client id.'],
}
const mqttChecks: Readonly<Record<number, readonly string[]>> = {
  0x8e: ['Give each its own client id.'],
  0x95: ['Send less in one message, or have its limit raised.'],
  1: ['Choose the other version of MQTT.'],
  0x84: ['Choose the other version of MQTT.'],
  2: ['Choose another client id.'],
}

const bacnet: CodeFamily = {
  title: 'BACnet',
  find: (pasted) => {
    const asks = (word: RegExp) => pasted.isAlone || word.test(pasted.text)
    return [
      ...[...codesByNumber].flatMap(([code, name]) => {
        const isNamed = name.includes('-') ? pasted.text.toLowerCase().includes(name) : pasted.text.toLowerCase() === name
        const isThere = isNamed || (pasted.numbers.includes(code) && asks(/bacnet|error code/i))
        const { words, next } = errorMeaning({ class: 0, code })
        return isThere ? [explained('BACnet error code', String(code), [name, words, [], [next]])] : []
      }),
      ...pasted.numbers.flatMap((reason) => {
        const rejected = reason <= 10 && asks(/reject/i) ? [{ kind: 'reject', ...rejectMeaning(reason) }] : []
        const aborted = reason <= 11 && asks(/abort/i) ? [{ kind: 'abort', ...abortMeaning(reason) }] : []
        return [...rejected, ...aborted].map(({ kind, words, next }) =>
          explained(`BACnet ${kind} reason`, String(reason), [`${kind} ${reason}`, words, [], [next]]),
        )
      }),
    ]
  },
}

const controllers: CodeFamily = {
  title: 'controller over ISO-on-TCP',
  find: (pasted) =>
    namedCodes.flatMap(({ code }) => {
      const number = Number(code)
      const isItem = number <= 0xff
      const isThere = pasted.numbers.includes(number) && (isItem ? isMeant(pasted, /iso|item|return code|controller/i) : true)
      const { words, next } = isItem ? itemMeaning(number) : requestMeaning(number)
      return isThere
        ? [explained('controller over ISO-on-TCP', code, [isItem ? 'code of an item' : 'code of a request', words, [], [next]])]
        : []
    }),
}

/** Reasons of a transport that ends (ISO 8073, 13.5.3). */
const transport: Readonly<Record<number, Row>> = {
  0: ['reason not given', 'it does not say why'],
  1: ['congestion', 'it has too much to do at its end'],
  2: [
    'nobody attached',
    'nobody answers at this TSAP',
    ['Rack, slot or TSAP is wrong.'],
    ['Compare them with the hardware configuration.'],
  ],
  3: ['address unknown', 'it knows no such TSAP', ['Rack, slot or TSAP is wrong.'], ['Compare them with the hardware configuration.']],
  128: ['normal disconnect', 'it was ended in order'],
  129: ['remote congestion', 'it has no place left for a connection', [], ['End another connection.']],
  130: ['negotiation failed', 'the class of transport is not offered'],
  131: ['duplicate reference', 'a connection of this number is there already'],
  133: ['protocol error', 'something does not keep to the protocol'],
  136: ['connection refused', 'it takes no connection on this way', [], ['Rack and slot; then its protection.']],
}
const iso: CodeFamily = {
  title: 'ISO transport, end of a connection',
  find: (pasted) =>
    meantNumbers(pasted, /tpdu|transport|iso|disconnect request|cotp/i).flatMap((code) =>
      transport[code] ? [explained('ISO transport, end of a connection', String(code), transport[code])] : [],
    ),
}

const httpChecks: Readonly<Record<number, readonly string[]>> = {
  400: ['Compare parameters and body with the description of the API.'],
  401: ['Look at how the link signs in; a token may have ended.'],
  403: ['The account is known, and may not ask for this.'],
  404: ['Compare the path.'],
  405: ['Compare the method.'],
  407: ['A proxy wants name and password.'],
  408: ['Look at network and load.'],
  413: ['Send less at once.'],
  415: ['Compare the content type.'],
  422: ['Look at the answer: it mostly names the field.'],
  429: ['Ask less often; the answer says when again.'],
  500: ['It is on their side; look at their log at that moment.'],
  502: ['The server behind their proxy failed.'],
  503: ['It is overloaded or being worked on; tried again by itself.'],
  504: ['The server behind their proxy is silent.'],
}
const http: CodeFamily = {
  title: 'HTTP status',
  find: (pasted) =>
    meantNumbers(pasted, /http|status|web|api\b/i).flatMap((code) =>
      code >= 300 && code < 600 && (httpChecks[code] || statusText(code) !== statusText(code >= 500 ? 599 : 499))
        ? [explained('HTTP status', String(code), [`status ${code}`, statusText(code), [], httpChecks[code] ?? []])]
        : [],
    ),
}

export const protocolFamilies: readonly CodeFamily[] = [opcua, modbus, mqtt, bacnet, controllers, iso, http]
