import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isFromOther } from '#core/diagnosis/rules/greeted'
import { serviceOf } from '#core/diagnosis/service'
import { tlsTroubleIn } from '#core/diagnosis/tls'

const bytes = (hex: string) => Uint8Array.from(Buffer.from(hex.replace(/ /g, ''), 'hex'))
const text = (words: string) => Uint8Array.from(Buffer.from(words, 'latin1'))

describe('what listens there, by what it says first', () => {
  it.each([
    ['tls', bytes('15 03 03 00 02 02 28')],
    ['tls', bytes('16 03 03 00 7A 02 00 00 76 03 03')],
    ['http', text('HTTP/1.1 400 Bad Request\r\n')],
    ['ssh', text('SSH-2.0-server\r\n')],
    // MODBUS Messaging on TCP/IP V1.0b: a reply of unit 255 with two registers
    ['modbus-tcp', bytes('15 01 00 00 00 07 FF 03 04 00 05 00 06')],
    ['modbus-tcp', bytes('1A 2F 00 00 00 03 0B 83 02')],
    // a reply with its check sum
    ['modbus-rtu', bytes('11 03 06 AE 41 56 52 43 40 49 AD')],
    ['opcua', bytes('41 43 4B 46 1C 00 00 00 00 00 00 00')],
    ['opcua', bytes('45 52 52 46 10 00 00 00')],
    ['mqtt', bytes('20 02 00 00')],
    ['mqtt', bytes('20 03 00 87 00')],
    // connection confirm
    ['iso-tcp', bytes('03 00 00 16 11 D0 00 01 00 01 00 C0 01 0A C1 02 01 00 C2 02 01 02')],
    ['postgresql', text('N')],
    ['postgresql', bytes('45 00 00 00 8A 53 46 41 54 41 4C')],
    ['mysql', bytes('4A 00 00 00 0A 35 2E 37 2E 33')],
    ['mysql', bytes('45 00 00 00 FF 6A 04 48 6F 73 74')],
    ['file-transfer', text('220 ready\r\n')],
    ['terminal', bytes('FF FD 18 FF FD 20')],
    ['bacnet-ip', bytes('81 0A 00 08 01 20 FF FF')],
  ])('%s', (id, said) => {
    expect(serviceOf(said)?.id).toBe(id)
  })

  it('is not told of bytes that fit nothing, and no bytes break it', () => {
    expect(serviceOf(bytes('00 00 00 00'))).toBeNull()
    expect(serviceOf(text('hello there'))).toBeNull()
    expect(serviceOf(new Uint8Array())).toBeNull()
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (any) => serviceOf(any) === null || serviceOf(any)!.title.length > 0))
  })
})

describe('what came over a connection', () => {
  const from = (speaks: string, isEncrypted = false) => ({
    ...{ speaks, host: 'meter', port: 502, carries: 'tcp' as const, usualPort: 502, isEncrypted },
  })
  it.each([
    ['a web server’s words are no answer of a meter', text('HTTP/1.1 400 Bad Request\r\n'), from('Modbus TCP'), true],
    ['they are those of a web server', text('HTTP/1.1 200 OK\r\n'), from('HTTP'), false],
    ['a shell’s words are no rows', text('SSH-2.0-quay\r\n'), from('PostgreSQL'), true],
    // transaction 0x1503, which begins like an alert of TLS
    ['an answer is not taken for another’s by its first number', bytes('15 03 00 00 00 05 01 03 02 00 07'), from('Modbus TCP'), false],
    // 69 bytes follow: begins like an error of another database
    ['nor a row', bytes('45 00 00 02 03 64 65 66'), from('MySQL'), false],
    ['nor what is known of nobody', bytes('00 00'), null, false],
  ])('%s', (_, came, goal, is) => {
    expect(isFromOther(came, goal)).toBe(is)
  })
})

describe('what TLS failed on', () => {
  it.each([
    ['error:0A00010B:SSL routines:tls_validate_record_header:wrong version number', 'plain'],
    ['unable to verify the first certificate', 'unknown authority'],
    ['self-signed certificate in certificate chain', 'self-signed'],
    ['CERT_HAS_EXPIRED', 'expired'],
    ['certificate is not yet valid', 'not yet valid'],
    ["Hostname/IP does not match certificate's altnames: Host: a. is not cert's CN: b", 'wrong host'],
    ['error:0A00042E:SSL routines:ssl3_read_bytes:tlsv1 alert protocol version:SSL alert number 70', 'old version'],
    ['error:0A000410:SSL routines:ssl3_read_bytes:sslv3 alert handshake failure:SSL alert number 40', 'no common cipher'],
    ['error:0A00045C:SSL routines:ssl3_read_bytes:tlsv13 alert certificate required:SSL alert number 116', 'wants our certificate'],
    ['error:0A000418:SSL routines:ssl3_read_bytes:tlsv1 alert unknown ca:SSL alert number 48', 'refuses our certificate'],
    ['The server does not support SSL connections', 'no TLS there'],
    ['Client network socket disconnected before secure TLS connection was established', 'closed'],
    ['it did not answer within 3000 ms', 'silent'],
    ['something else', null],
  ])('%s', (said, trouble) => {
    expect(tlsTroubleIn(said)).toBe(trouble)
  })
})
