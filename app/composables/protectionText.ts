import type { TlsMode, TlsSettings } from '#core/contracts/protection'

export const protectionTitles: Record<TlsMode, { title: string; subtitle: string }> = {
  off: { title: 'not encrypted', subtitle: 'on this machine, or where the way there is safe' },
  encrypted: { title: 'encrypted', subtitle: 'whoever answers is believed' },
  verified: { title: 'encrypted and verified', subtitle: 'their certificate has to be of this host, from a known authority' },
}

/** How a connection is protected, as a line. */
export const protectionText = ({ mode, authority }: TlsSettings): string =>
  `${protectionTitles[mode].title}${mode === 'verified' && authority ? ', by the authority given here' : ''}`
