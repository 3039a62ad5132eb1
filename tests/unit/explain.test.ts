import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { explain } from '#core/diagnosis/codes/explain'

/** What any code means, alone or inside of a message. */

const namesOf = (text: string) => explain(text).map(({ family, name }) => `${family}: ${name}`)

describe('a code', () => {
  it.each([
    ['BadSecurityChecksFailed', 'OPC UA status code: BadSecurityChecksFailed'],
    ['0x80130000', 'OPC UA status code: BadSecurityChecksFailed'],
    ['80130000', 'OPC UA status code: BadSecurityChecksFailed'],
    ['2148728832', 'OPC UA status code: BadSecurityChecksFailed'],
    // with the bits that tell of a limit
    ['0x80340480', 'OPC UA status code: BadNodeIdUnknown'],
    ['2', 'Modbus exception: ILLEGAL DATA ADDRESS'],
    ['Modbus exception 11 from unit 13', 'Modbus exception: GATEWAY TARGET DEVICE FAILED TO RESPOND'],
    ['the slave said Illegal Data Value', 'Modbus exception: ILLEGAL DATA VALUE'],
    ['error class object, error code 31 (BACnet)', 'BACnet error code: unknown-object'],
    ['unknown-property', 'BACnet error code: unknown-property'],
    ['Connection refused: Not authorized, CONNACK 5', 'MQTT 3.1.1 return code: Not authorized'],
    ['DISCONNECT reason code 0x8E', 'MQTT 5.0 reason code: Session taken over'],
    ['0xD602', 'controller over ISO-on-TCP: code of a request'],
    ['ISO transport disconnect request, reason 3', 'ISO transport, end of a connection: address unknown'],
    ['SSL alert number 48', 'TLS alert: unknown_ca'],
    ['tlsv1 alert protocol_version', 'TLS alert: protocol_version'],
    ['HTTP 429', 'HTTP status: status 429'],
    ['503', 'HTTP status: status 503'],
    ['SQLSTATE 28P01', 'SQLSTATE: class 28'],
    ['42P01', 'SQLSTATE: class 42'],
    ["ERROR 1045 (28000): Access denied for user 'a'@'b'", 'MySQL and MariaDB: access denied'],
    ['connect ECONNREFUSED 10.8.0.4:502', 'operating system (errno): ECONNREFUSED'],
    ['errno 113', 'operating system (errno): EHOSTUNREACH'],
    ['getaddrinfo ENOTFOUND meters', 'name service: ENOTFOUND'],
    ['0x800706BA', 'component-based connection (result code): procedure server unavailable'],
    ['-2147023174', 'component-based connection (result code): procedure server unavailable'],
    ['800706ba', 'component-based connection (result code): procedure server unavailable'],
    ['1722', 'component-based connection (result code): procedure server unavailable'],
    ['0x80070005', 'component-based connection (result code): access denied'],
    ['-2147024891', 'component-based connection (result code): access denied'],
    ['0x80040154', 'component-based connection (result code): class not registered'],
    ['-2147221164', 'component-based connection (result code): class not registered'],
    ['0x80072AF9', 'component-based connection (result code): host not found'],
    ['0x80040202', 'component-based connection (result code): call-backs refused'],
    ['Advise failed: 80040202.', 'component-based connection (result code): call-backs refused'],
    ['0xC0040007', 'component-based connection (result code): unknown item'],
    ['0x80070776', 'component-based connection (result code): object exporter not found'],
    ['10060', 'component-based connection (result code): connection timed out'],
  ])('%s', (text, wanted) => {
    expect(namesOf(text)).toContain(wanted)
  })

  it('says in each layer what it means there, where it may be of several', () => {
    const families = explain('5').map(({ family }) => family)
    expect(families).toEqual(
      expect.arrayContaining([
        'Modbus exception',
        'MQTT 3.1.1 return code',
        'operating system (errno)',
        'component-based connection (result code)',
      ]),
    )
  })

  it('is not seen in plain numbers of a sentence', () => {
    expect(explain('The pump 5 ran for 11 hours at 40 degrees, 503 times')).toEqual([])
    expect(explain('')).toEqual([])
    expect(explain('2026-11-29 14:06:45')).toEqual([])
  })

  it('has something to look at wherever it asks for action, and nothing breaks it', () => {
    for (const text of ['0x800706BA', 'ECONNRESET', 'BadCertificateUntrusted', '1045'])
      for (const { words, checks } of explain(text)) expect([words, ...checks].every((line) => line.trim().length > 0)).toBe(true)
    expect(explain('ECONNRESET')[0]!.checks.length).toBeGreaterThan(0)
    fc.assert(fc.property(fc.string({ maxLength: 200 }), (any) => Array.isArray(explain(any))))
    fc.assert(fc.property(fc.integer(), (any) => Array.isArray(explain(String(any)))))
  })
})
