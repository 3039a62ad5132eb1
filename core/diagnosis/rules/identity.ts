import type { Facts } from '../facts'
import { against, forIt, stoppedBy, type Rule } from '../rule'
import { says } from './named'
import { changeSaid, hostText, workedText } from '../words'

/** Why we are not let in, or may not do what is asked for. */

const isIdentity = (facts: Facts): boolean =>
  stoppedBy('opcua.user-refused', 'cloud.token', 'http.token')(facts) ||
  (stoppedBy('mqtt.refused')(facts) && says(facts, /password|authori[sz]ed|identifier|Client Identifier/i) !== null) ||
  (stoppedBy('sql.refused')(facts) && says(facts, /28P01|28000|1045/) !== null) ||
  (stoppedBy('http.refused')(facts) && says(facts, /status 401|HTTP 401/) !== null)

/** Let in, and not to this. */
const isRight = (facts: Facts): boolean =>
  stoppedBy('sql.no-right', 'mqtt.filter-refused', 'mqtt.not-sent')(facts) || (!isIdentity(facts) && hasNoRight(facts))
const hasNoRight = (facts: Facts): boolean =>
  says(facts, /BadUserAccessDenied|42501|status 403|HTTP 403|access is not allowed|Not authorized/) !== null

export const identityRules: Rule[] = [
  {
    id: 'password-wrong',
    side: 'entry',
    explains: isIdentity,
    title: (facts) => `${hostText(facts)} does not accept the name and secret of these settings.`,
    where: (facts) => `In these settings, or on ${hostText(facts)}`,
    next: () => [
      'Type name and password (or token) again; mind capital letters and spaces at the ends.',
      'Try the same pair there with another client. If it fails there, too, have the account set anew.',
    ],
    signs: [
      forIt('strong', ({ fault }) => fault.what),
      forIt('clear', (facts) => changeSaid(facts, 'revision')),
      against('hint', workedText),
    ],
  },
  {
    id: 'account-changed',
    side: 'device',
    explains: isIdentity,
    title: (facts) => `The account on ${hostText(facts)} was changed, locked, or has ended.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Look at the account there: locked after failed attempts, expired, removed, or with a new password.',
      'Have it opened again, or enter the new secret here.',
    ],
    signs: [
      forIt('strong', workedText),
      forIt('clear', ({ fault }) => (fault.code === 'cloud.token' || fault.code === 'http.token' ? 'tokens end after a time' : null)),
      against('strong', ({ lastGood }) => (lastGood == null ? 'it never let us in before, as far as is known' : null)),
      against('clear', (facts) => changeSaid(facts, 'revision')),
    ],
  },
  {
    id: 'not-from-here',
    side: 'device',
    explains: (facts) => isIdentity(facts) && stoppedBy('sql.refused')(facts),
    title: (facts) => `${hostText(facts)} lets this account in from other machines only.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: (facts) => [
      `Allow the account to come from this machine${facts.route && 'from' in facts.route ? ` (${facts.route.from})` : ''}: in pg_hba.conf, or the host part of the account.`,
    ],
    signs: [
      forIt('proof', (facts) => says(facts, /pg_hba\.conf|is not allowed to connect|no entry for host/i)),
      against('clear', (facts) =>
        says(facts, /pg_hba\.conf|is not allowed to connect|no entry for host/i) ? null : 'it did not name the host as the reason',
      ),
    ],
  },
  {
    id: 'right-missing',
    side: 'device',
    explains: isRight,
    title: (facts) => `Our account on ${hostText(facts)} may not do this.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: ({ fault }) => ['Have the right granted there to the account that this link uses.', fault.next],
    signs: [forIt('proof', ({ fault }) => fault.what)],
  },
  {
    id: 'server-does-not-trust-us',
    side: 'device',
    explains: stoppedBy('opcua.we-are-refused', 'opcua.security-failed'),
    title: (facts) => `${hostText(facts)} does not trust the certificate of this machine.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: ({ fault }) => [fault.next, 'Come back; this link tries by itself.'],
    signs: [
      forIt('strong', ({ fault }) =>
        fault.code === 'opcua.we-are-refused'
          ? `it ended the secure channel when it was shown ours${fault.evidence ? `: ${fault.evidence}` : ''}`
          : null,
      ),
      forIt('clear', ({ fault }) => (fault.code === 'opcua.security-failed' ? fault.what : null)),
      forIt('strong', (facts) => changeSaid(facts, 'ownCertificate')),
      forIt('hint', ({ lastGood }) =>
        lastGood == null ? 'it never let us in before: the first connection nearly always stops here' : null,
      ),
    ],
  },
  {
    id: 'we-have-not-decided',
    side: 'here',
    explains: stoppedBy('certificate.unknown', 'certificate.refused'),
    title: ({ fault }) => fault.what,
    where: () => 'Here, on this page',
    next: ({ fault }) => [fault.next],
    signs: [forIt('proof', ({ fault }) => fault.what), forIt('hint', (facts) => changeSaid(facts, 'certificate'))],
  },
  {
    id: 'certificate-exchanged',
    side: 'device',
    explains: stoppedBy('certificate.unknown'),
    title: (facts) => `${hostText(facts)} has another certificate than before.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Ask whoever runs it whether it was renewed or the machine exchanged.',
      'Compare the new fingerprint, then trust it here.',
    ],
    signs: [
      forIt('proof', (facts) => (changeSaid(facts, 'certificate') ? `${changeSaid(facts, 'certificate')}` : null)),
      forIt('clear', workedText),
      against('proof', (facts) => (changeSaid(facts, 'certificate') ? null : 'no other certificate of it is known here')),
    ],
  },
]
