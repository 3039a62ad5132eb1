import type { Facts } from '../facts'
import { against, forIt, stoppedBy, type Rule } from '../rule'
import { tlsTroubleIn, type TlsTrouble } from '../tls'
import { changeSaid, hostText, portText } from '../words'

/** Why no protected connection came about. */

/** Of TLS 1.3 an end hears only afterwards that the other wants its certificate (RFC 8446, 4.4.2.4). */
const stopped = (facts: Facts): boolean =>
  stoppedBy('http.tls', 'mqtt.tls', 'sql.tls')(facts) ||
  (stoppedBy('http.broken', 'mqtt.closed', 'sql.broken')(facts) && said(facts, 'wants our certificate', 'refuses our certificate') !== null)
const troubleOf = (facts: Facts): TlsTrouble | null => tlsTroubleIn(facts.fault.evidence) ?? tlsTroubleIn(facts.fault.what)
const said = (facts: Facts, ...which: TlsTrouble[]): string | null => {
  const trouble = troubleOf(facts)
  return trouble !== null && which.includes(trouble) ? `TLS ended with: ${facts.fault.evidence || facts.fault.what}` : null
}
const isOther = (...which: TlsTrouble[]) => against('proof', (facts) => (said(facts, ...which) ? null : 'TLS did not say so'))

export const tlsRules: Rule[] = [
  {
    id: 'tls-authority',
    side: 'here',
    explains: stopped,
    title: (facts) => `The authority of the certificate of ${hostText(facts)} is not known here.`,
    where: () => 'In these settings',
    next: (facts) => [
      'Get the certificate of its authority from whoever runs it (PEM), and give it in the settings under TLS.',
      said(facts, 'self-signed')
        ? 'It signed for itself: then its own certificate is the one to give.'
        : 'Where several signed each other, give the one at the top.',
      'Compare its fingerprint with the owner before you trust it.',
    ],
    signs: [
      forIt('proof', (facts) => said(facts, 'unknown authority', 'self-signed')),
      forIt('hint', (facts) => changeSaid(facts, 'certificate')),
      isOther('unknown authority', 'self-signed'),
    ],
  },
  {
    id: 'tls-expired',
    side: 'device',
    explains: (facts) => stopped(facts) || stoppedBy('certificate.expired')(facts),
    title: (facts) => `The certificate of ${hostText(facts)} has expired.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['Have a new certificate made there.', 'Check the date of this machine beside it: date'],
    signs: [
      forIt('proof', (facts) => said(facts, 'expired')),
      forIt('proof', ({ fault }) => (fault.code === 'certificate.expired' ? fault.what : null)),
      against('strong', (facts) => changeSaid(facts, 'clockSet')),
      against('proof', (facts) => (facts.fault.code === 'certificate.expired' || said(facts, 'expired') ? null : 'TLS did not say so')),
    ],
  },
  {
    id: 'clock-wrong',
    side: 'here',
    explains: (facts) =>
      stoppedBy('certificate.expired', 'certificate.not-yet', 'opcua.our-clock', 'cloud.clock')(facts) ||
      (stopped(facts) && said(facts, 'expired', 'not yet valid') !== null),
    title: () => 'The clock of one of the two machines is wrong.',
    where: (facts) => `On this machine, or on ${hostText(facts)}`,
    next: () => [
      'Compare both with a third clock. On this machine: timedatectl',
      'Let both take their time from one server (NTP, UDP 123).',
    ],
    signs: [
      forIt('strong', (facts) => said(facts, 'not yet valid')),
      forIt('strong', ({ fault }) =>
        fault.code === 'certificate.not-yet' || fault.code === 'opcua.our-clock' || fault.code === 'cloud.clock' ? fault.what : null,
      ),
      forIt('proof', (facts) => changeSaid(facts, 'clockSet')),
      forIt('strong', (facts) => changeSaid(facts, 'clockAhead')),
      against('clear', ({ fault }) => (fault.code === 'certificate.expired' ? 'a certificate that ends is the usual case' : null)),
    ],
  },
  {
    id: 'tls-host',
    side: 'device',
    explains: (facts) => stopped(facts) || stoppedBy('certificate.host')(facts),
    title: (facts) => `The certificate there is for another name than ${facts.goal?.host ?? 'the one that was dialled'}.`,
    where: (facts) => `In these settings, or on ${hostText(facts)}`,
    next: () => [
      'Enter the name that its certificate is for, if this machine knows it.',
      'Or have a certificate made there for the name that is dialled.',
    ],
    signs: [
      forIt('proof', (facts) => said(facts, 'wrong host')),
      forIt('proof', ({ fault }) => (fault.code === 'certificate.host' ? fault.what : null)),
      against('proof', (facts) => (facts.fault.code === 'certificate.host' || said(facts, 'wrong host') ? null : 'TLS did not say so')),
    ],
  },
  {
    id: 'tls-version',
    side: 'device',
    explains: stopped,
    title: (facts) => `${hostText(facts)} and this machine share no version or cipher of TLS.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Have TLS 1.2 or 1.3 switched on there, or its firmware brought up to date.',
      'Until then, a relay beside it can carry the last stretch.',
    ],
    signs: [
      forIt('proof', (facts) => said(facts, 'old version')),
      forIt('strong', (facts) => said(facts, 'no common cipher')),
      isOther('old version', 'no common cipher'),
    ],
  },
  {
    id: 'tls-not-there',
    side: 'entry',
    explains: stopped,
    title: (facts) => `${portText(facts)} of ${hostText(facts)} speaks without TLS.`,
    where: () => 'In these settings',
    next: () => ['Switch TLS off for this port, if the network is yours alone.', 'Or enter the port on which it listens with TLS.'],
    signs: [
      forIt('proof', (facts) => said(facts, 'plain', 'no TLS there')),
      forIt('clear', (facts) => said(facts, 'silent', 'closed')),
      against('proof', (facts) => (facts.greeting?.service.id === 'tls' ? 'it answers in TLS' : null)),
      isOther('plain', 'no TLS there', 'silent', 'closed'),
    ],
  },
  {
    id: 'tls-our-certificate',
    side: 'device',
    explains: stopped,
    title: (facts) => `${hostText(facts)} wants a certificate of ours, or does not take the one it got.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Give a client certificate in the settings under TLS, signed by an authority that it knows.',
      'Or have ours entered there.',
    ],
    signs: [
      forIt('proof', (facts) => said(facts, 'wants our certificate', 'refuses our certificate')),
      forIt('hint', (facts) => said(facts, 'closed', 'no common cipher')),
      isOther('wants our certificate', 'refuses our certificate', 'closed', 'no common cipher'),
    ],
  },
]
