import { entry } from './entry'

const day = (time: number) => new Date(time).toISOString().slice(0, 10)

/** Certificates, ours and those of others. */
export const certificateFaults = {
  'certificate.unknown': entry<{ name: string }>(
    'here',
    (e) => `Nobody here has decided about the certificate of “${e.name}”.`,
    () => 'Compare its fingerprint with the one on the device, then trust or refuse it.',
  ),
  'certificate.refused': entry<{ name: string }>(
    'here',
    (e) => `The certificate of “${e.name}” is refused here.`,
    () => 'If that was a mistake, trust it under Site, Certificates.',
  ),
  'certificate.expired': entry<{ name: string; until: number; ours: boolean }>(
    'device',
    (e) => `The certificate of “${e.name}” expired on ${day(e.until)}.`,
    (e) =>
      e.ours
        ? 'Take one that is still valid.'
        : 'Have a new one made on that device, or trust this one although it is expired. If its date looks right, check the clock of this machine.',
  ),
  'certificate.not-yet': entry<{ name: string; from: number; now: number }>(
    'device',
    (e) => `The certificate of “${e.name}” is valid from ${day(e.from)} on, and here it is ${day(e.now)}.`,
    () => 'One of the two clocks is wrong. Set it, have the certificate made anew, or trust it nevertheless.',
  ),
  'certificate.host': entry<{ name: string; hosts: string; dialled: string }>(
    'device',
    (e) => `The certificate of “${e.name}” is for ${e.hosts}, and we dialled ${e.dialled}.`,
    (e) => `Use the name it is for, have it made anew with ${e.dialled} in it, or trust it nevertheless after comparing the fingerprint.`,
  ),
  'certificate.uri': entry<{ name: string; uri: string; expected: string }>(
    'device',
    (e) => `The certificate of “${e.name}” names the application ${e.uri}, and the server calls itself ${e.expected}.`,
    () => 'Have it made anew on the device, or trust it nevertheless after comparing the fingerprint.',
  ),
  'certificate.key-short': entry<{ name: string; bits: number; least: number }>(
    'device',
    (e) => `The key of “${e.name}” has ${e.bits} bits; ${e.least} are the least that today’s policies allow.`,
    () => 'Have a new certificate made with a longer key. Keys this short are broken in practice, so this one cannot be trusted.',
  ),
  'certificate.unreadable': entry<{ what: string }>(
    'entry',
    (e) => `This is no ${e.what} that can be read.`,
    () => 'PEM is asked for: text between -----BEGIN and -----END lines, and a private key without a pass phrase.',
  ),
  'certificate.key-mismatch': entry<{ name: string }>(
    'entry',
    (e) => `The private key does not belong to the certificate “${e.name}”.`,
    () => 'Take the pair that was made together. Nothing was changed.',
  ),
  'certificate.no-uri': entry<{ name: string }>(
    'entry',
    (e) => `The certificate “${e.name}” names no application URI.`,
    () => 'An OPC UA application certificate has its URI among the subject’s alternative names; have it made with one.',
  ),
} as const
