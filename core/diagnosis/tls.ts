/** What TLS failed on, whichever library said it and in whatever words (RFC 5246, 7.2; RFC 8446, 6). */
export type TlsTrouble =
  | 'plain'
  | 'unknown authority'
  | 'self-signed'
  | 'expired'
  | 'not yet valid'
  | 'wrong host'
  | 'old version'
  | 'no common cipher'
  | 'wants our certificate'
  | 'refuses our certificate'
  | 'no TLS there'
  | 'closed'
  | 'silent'

const words: [TlsTrouble, RegExp][] = [
  // what came is no record of TLS
  ['plain', /wrong version number|packet length too long|unknown protocol|http request|record layer failure/i],
  ['expired', /CERT_HAS_EXPIRED|certificate has expired/i],
  ['not yet valid', /CERT_NOT_YET_VALID|not yet valid/i],
  ['wrong host', /ERR_TLS_CERT_ALTNAME_INVALID|does not match certificate|altnames/i],
  ['self-signed', /DEPTH_ZERO_SELF_SIGNED|SELF_SIGNED_CERT_IN_CHAIN|self.signed certificate/i],
  ['unknown authority', /UNABLE_TO_(GET_ISSUER_CERT|VERIFY_LEAF)|unable to (get (local )?issuer|verify the first)/i],
  // it knows which version and cipher, and ends it after ours was due (RFC 5246, 7.4.6)
  ['wants our certificate', /handshake failure.* were agreed on/i],
  ['old version', /unsupported protocol|alert protocol version|alert number 70|version too low|no protocols available/i],
  ['no common cipher', /handshake failure|alert number 40|no shared cipher|no ciphers available|insufficient security|alert number 71/i],
  ['wants our certificate', /certificate required|alert number 116|peer did not return a certificate|no certificate returned/i],
  [
    'refuses our certificate',
    /alert (unknown ca|bad certificate|certificate unknown|unsupported certificate|certificate expired|certificate revoked|access denied)|alert number 4[2-9]/i,
  ],
  ['no TLS there', /does not support (SSL|TLS|secure)|SSL is not (enabled|supported)|server refuses TLS/i],
  ['silent', /did not answer within|timed? ?out|no answer within/i],
  ['closed', /ECONNRESET|socket disconnected|closed the connection|socket hang up|EPIPE|before secure TLS/i],
]

/** Null: these words say nothing about TLS that is known here. */
export const tlsTroubleIn = (text: string): TlsTrouble | null => words.find(([, pattern]) => pattern.test(text))?.[0] ?? null
