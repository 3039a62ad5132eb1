import { numbered, type Row } from './explanation'

/** Alerts (RFC 8446, 6; RFC 5246, 7.2). */
const rows: Readonly<Record<number, Row>> = {
  0: ['close_notify', 'the connection ended in order'],
  10: [
    'unexpected_message',
    'a message came that does not belong there',
    ['One side speaks no TLS.'],
    ['Look whether TLS is switched on at both ends.'],
  ],
  20: [
    'bad_record_mac',
    'what came was changed on the way',
    ['A device between changes what passes; memory that fails.'],
    ['Try it without what stands between.'],
  ],
  21: ['decryption_failed', 'what came could not be decrypted'],
  22: ['record_overflow', 'a record was too long', ['One side speaks no TLS.']],
  40: [
    'handshake_failure',
    'both sides found nothing in common',
    ['Ciphers or versions that only one side has.', 'The far side wants a certificate of ours.'],
    ['Have TLS 1.2 or 1.3 switched on there.', 'Give a client certificate.'],
  ],
  42: [
    'bad_certificate',
    'our certificate cannot be used there',
    ['It is damaged, or its signature does not hold.'],
    ['Look at it; have it made anew.'],
  ],
  43: [
    'unsupported_certificate',
    'our certificate is of a kind that it does not take',
    ['A kind of key that it does not know.'],
    ['Make one with RSA.'],
  ],
  44: ['certificate_revoked', 'our certificate was called back', [], ['Have a new one made.']],
  45: ['certificate_expired', 'our certificate has expired, or its clock is wrong', [], ['Look at its last day and at both clocks.']],
  46: [
    'certificate_unknown',
    'our certificate was not accepted, for a reason that it does not say',
    ['It does not know our authority, or the host does not fit.'],
    ['Look at the far side’s log.'],
  ],
  47: ['illegal_parameter', 'something in the handshake is not allowed'],
  48: ['unknown_ca', 'it does not know the authority of our certificate', [], ['Give our authority’s certificate to whoever runs it.']],
  49: ['access_denied', 'the certificate is sound, and may not come in', [], ['Have it entered there.']],
  50: ['decode_error', 'a message could not be read'],
  51: [
    'decrypt_error',
    'a signature does not hold',
    ['A key that does not belong to the certificate.'],
    ['Take the pair that was made together.'],
  ],
  70: [
    'protocol_version',
    'it does not take this version of TLS',
    ['One of the two is too old.'],
    ['Have TLS 1.2 or 1.3 switched on there.'],
  ],
  71: ['insufficient_security', 'it wants stronger ciphers'],
  80: ['internal_error', 'it failed inside', [], ['Look at its log.']],
  86: ['inappropriate_fallback', 'the connection was tried again with an older version than both have'],
  90: ['user_canceled', 'somebody stopped it'],
  109: ['missing_extension', 'something is missing in our greeting'],
  110: ['unsupported_extension', 'it answered with what was not asked for'],
  112: [
    'unrecognized_name',
    'it serves nobody of the name that we dialled',
    ['We dialled by number, or by a name that it does not have.'],
    ['Enter the name that its certificate is for.'],
  ],
  113: ['bad_certificate_status_response', 'the proof that the certificate still holds is not right'],
  115: ['unknown_psk_identity', 'it does not know our key'],
  116: ['certificate_required', 'it wants a certificate of ours', [], ['Give a client certificate, signed by an authority that it knows.']],
  120: ['no_application_protocol', 'it offers nothing of what we want to speak inside'],
}

export const tlsAlerts = numbered('TLS alert', /\balert\b|\btls\b|\bssl\b/i, rows, (code) => `alert ${code}`)
