import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fingerprintText, isAcceptable, judge, type CertificateFacts } from '#core/certificates/judge'
import { parseEndpoint, endpointText, endpointUrl } from '#core/opcua/endpointAddress'
import { encodeHello, readGreeting, readReverseHello } from '#core/opcua/hello'
import { follow, parseMember } from '#core/opcua/member'
import { formatNodeAddress, parseNodeAddress, withIndex, withUri } from '#core/opcua/nodeId'
import { safestFirst, type Offer } from '#core/opcua/offers'
import { whyNotKept } from '#core/opcua/keeping'
import { opcua } from '#core/opcua/protocol'
import { opcuaSettings } from '#core/opcua/settings'
import { memberText } from '#engine/links/opcua/origin'

describe('endpoint addresses', () => {
  it.each([
    ['arm1', 'arm1', 4840, ''],
    ['arm1.port.example:4841', 'arm1.port.example', 4841, ''],
    ['opc.tcp://arm1:4841/path/x', 'arm1', 4841, '/path/x'],
    ['OPC.TCP://ARM1/', 'ARM1', 4840, ''],
    ['10.8.0.12:48010', '10.8.0.12', 48010, ''],
    ['[fe80::1]:4841/a', 'fe80::1', 4841, '/a'],
  ])('%s', (text, host, port, path) => {
    expect(parseEndpoint(text)).toEqual({ ok: true, address: { host, port, path } })
  })

  it.each([
    ['', /host and port/],
    ['http://arm1', /another transport/],
    ['arm1:99999', /1 to 65535/],
    ['arm1:', /1 to 65535/],
    ['arm1:48x', /1 to 65535/],
    ['10.8.0.300', /0 to 255/],
    ['arm one', /no spaces/],
    ['fe80::1', /in brackets/],
    ['-arm', /neither a host name/],
  ])('%s is refused', (text, problem) => {
    expect(parseEndpoint(text)).toEqual({ ok: false, problem: expect.stringMatching(problem) as string })
  })

  it('come back from their full form', () => {
    const host = fc.constantFrom('arm1', 'arm-1.port.example', '10.0.0.1', '::1', 'fe80::a1')
    fc.assert(
      fc.property(host, fc.integer({ min: 1, max: 65535 }), fc.constantFrom('', '/arm', '/a/b'), (name, port, path) => {
        const address = { host: name, port, path }
        expect(parseEndpoint(endpointUrl(address))).toEqual({ ok: true, address })
        expect(parseEndpoint(endpointText(address))).toEqual({ ok: true, address })
      }),
    )
  })
})

describe('NodeIds', () => {
  // examples of OPC 10000-6, 5.3.1.10
  it.each([
    ['i=13', null, null, 'i', '13'],
    ['ns=10;i=1', null, 10, 'i', '1'],
    ['ns=10;s=Hello:World', null, 10, 's', 'Hello:World'],
    ['g=09087e75-8e5e-499b-954f-f2a9603db28a', null, null, 'g', '09087e75-8e5e-499b-954f-f2a9603db28a'],
    ['ns=1;b=M/RbKBsRVkePCePcx24oRA==', null, 1, 'b', 'M/RbKBsRVkePCePcx24oRA=='],
    ['nsu=urn:port:arm;s=Plug;Position=1', 'urn:port:arm', null, 's', 'Plug;Position=1'],
  ])('%s', (text, namespace, index, kind, identifier) => {
    expect(parseNodeAddress(text)).toEqual({ ok: true, address: { namespace, index, kind, identifier } })
  })

  it.each(['', 'Plug.Position', 'i=x', 'i=4294967296', 'g=1234', 'b=%%', 's=', 'ns=70000;i=1', 'nsu=;i=1'])(
    '“%s” is refused in words',
    (text) => {
      expect(parseNodeAddress(text)).toMatchObject({ ok: false, problem: expect.stringMatching(/\w{3}/) as string })
    },
  )

  it('survive a server that numbers its namespaces anew', () => {
    const before = ['http://opcfoundation.org/UA/', 'urn:server', 'urn:arm']
    const after = ['http://opcfoundation.org/UA/', 'urn:server', 'urn:spare', 'urn:arm']
    const kept = withUri('ns=2;s=Plug', before)
    expect(kept).toBe('nsu=urn:arm;s=Plug')
    const parsed = parseNodeAddress(kept)
    expect(parsed.ok && withIndex(parsed.address, after)).toBe('ns=3;s=Plug')
    expect(parsed.ok && withIndex(parsed.address, ['http://opcfoundation.org/UA/'])).toBeNull()
    expect(withUri('ns=0;i=2258', before)).toBe('i=2258')
  })

  it('keep any text as identifier', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 60 }), (identifier) => {
        const address = { namespace: 'urn:arm', index: null, kind: 's' as const, identifier }
        const parsed = parseNodeAddress(formatNodeAddress(address))
        // surrounding blanks are the typist's, not the identifier's
        if (identifier.trimEnd() === identifier) expect(parsed).toEqual({ ok: true, address })
      }),
    )
  })

  it('are described for the sheet: namespace, identifier, and a note where an index may change', () => {
    expect(opcua.describe('ns=2;s=Plug', {})).toMatchObject({
      ok: true,
      canonical: 'ns=2;s=Plug',
      note: expect.stringMatching(/anew at each start/) as string,
    })
    expect(opcua.describe('nsu=urn:arm;i=7', {})).toMatchObject({ ok: true, note: null, notations: [{ text: 'urn:arm' }, { text: '7' }] })
  })
})

describe('the way into a value', () => {
  it.each([
    ['', []],
    ['Target', ['Target']],
    ['Zones[3].Limit', ['Zones', 3, 'Limit']],
    ['[2]', [2]],
    ['[2][0]', [2, 0]],
  ])('%s', (text, steps) => {
    expect(parseMember(text)).toEqual({ ok: true, steps })
    expect(memberText(steps)).toBe(text)
  })

  it.each(['.', 'a..b', '[x]', 'a[', '1a'])('“%s” is refused', (text) => expect(parseMember(text).ok).toBe(false))

  it('follows members whatever the case of their first letter, and elements', () => {
    const value = { target: { slew: 4, limits: new Float32Array([1, 2]) }, Name: 'x' }
    expect(follow(value, ['Target', 'Slew'])).toBe(4)
    expect(follow(value, ['Target', 'Limits', 1])).toBe(2)
    expect(follow(value, ['Name'])).toBe('x')
    expect(follow(value, ['Target', 'Nothing', 'More'])).toBeUndefined()
    expect(follow(value, ['constructor'])).toBeUndefined()
  })
})

describe('the greeting', () => {
  it('is Hello as OPC 10000-6, 7.1.2.3 lays it out', () => {
    const bytes = encodeHello('opc.tcp://arm:4840')
    expect(bytes.toString('hex')).toBe(
      '48454c46' +
        '32000000' +
        '00000000' +
        '00000100' +
        '00000100' +
        '00000000' +
        '00000000' +
        '12000000' +
        Buffer.from('opc.tcp://arm:4840').toString('hex'),
    )
  })

  it('reads Acknowledge and Error however they are cut, and knows strangers', () => {
    const acknowledge = Buffer.from('41434b461c000000' + '00000000' + '00000100' + '00000100' + '00000000' + '00000000', 'hex')
    for (let cut = 0; cut < acknowledge.length; cut++) expect(readGreeting(acknowledge.subarray(0, cut))).toEqual({ kind: 'more' })
    expect(readGreeting(acknowledge)).toEqual({ kind: 'acknowledge', version: 0, receiveBuffer: 65536, sendBuffer: 65536 })
    const error = Buffer.from('4552524615000000' + '00008380' + '05000000' + Buffer.from('wrong').toString('hex'), 'hex')
    expect(readGreeting(error)).toEqual({ kind: 'error', status: 0x80830000, reason: 'wrong' })
    const silent = Buffer.from('4552524610000000' + '00008380' + 'ffffffff', 'hex')
    expect(readGreeting(silent)).toEqual({ kind: 'error', status: 0x80830000, reason: '' })
    expect(readGreeting(Buffer.from('HTTP/1.1 400'))).toEqual({ kind: 'foreign' })
    expect(readGreeting(Buffer.from('41434b46ffffff7f', 'hex'))).toEqual({ kind: 'foreign' })
  })
})

describe('a Reverse Hello (OPC 10000-6, 7.1.2.6)', () => {
  const said = (serverUri: string, endpointUrl: string, lengths = [serverUri, endpointUrl].map((text) => Buffer.byteLength(text))) => {
    const [uri, url] = [Buffer.from(serverUri), Buffer.from(endpointUrl)]
    const bytes = Buffer.alloc(16 + uri.length + url.length)
    bytes.write('RHEF', 0)
    bytes.writeUInt32LE(bytes.length, 4)
    bytes.writeInt32LE(lengths[0]!, 8)
    uri.copy(bytes, 12)
    bytes.writeInt32LE(lengths[1]!, 12 + uri.length)
    url.copy(bytes, 16 + uri.length)
    return bytes
  }

  it('is read however it is cut, and what follows it is not touched', () => {
    const bytes = said('urn:port:berth-3', 'opc.tcp://quay:4840')
    for (let cut = 0; cut < bytes.length; cut++) expect(readReverseHello(bytes.subarray(0, cut))).toEqual({ kind: 'more' })
    const whole = { kind: 'reverse-hello', length: bytes.length, serverUri: 'urn:port:berth-3', endpointUrl: 'opc.tcp://quay:4840' }
    expect(readReverseHello(bytes)).toEqual(whole)
    expect(readReverseHello(Buffer.concat([bytes, Buffer.from('HELF')]))).toEqual(whole)
    expect(readReverseHello(said('', '', [-1, -1]))).toMatchObject({ serverUri: '', endpointUrl: '' })
  })

  it.each([
    ['another message', Buffer.from('HELF\x10\0\0\0')],
    ['a text that is longer than the message', said('urn:a', 'opc.tcp://b', [500, 11])],
    ['a text that is longer than any may be', said('u'.repeat(4097), 'opc.tcp://b')],
    ['a message that is longer than any may be', Buffer.from('RHEF\xff\xff\xff\x7f', 'latin1')],
    ['one that is too short for two texts', Buffer.from('RHEF\x0c\0\0\0\0\0\0\0')],
  ])('is not %s', (_, bytes) => {
    expect(readReverseHello(bytes)).toEqual({ kind: 'foreign' })
  })

  it('is never read out of bytes that break it', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (any) => {
        const { kind } = readReverseHello(Buffer.concat([Buffer.from('RHEF'), any]))
        return ['more', 'foreign', 'reverse-hello'].includes(kind)
      }),
    )
  })
})

describe('settings of a server that dials us', () => {
  const awaits = (serverUri: string) => ({ awaits: { port: 4843, serverUri } })
  const problems = (settings: object) => opcuaSettings.safeParse(settings).error?.issues.map(({ path }) => path.join('.')) ?? []

  it('ask for no address; those of one that we dial do', () => {
    expect(problems(awaits('urn:a'))).toEqual([])
    expect(problems({})).toEqual(['address'])
    expect(problems({ awaits: { port: 0 } })).toContain('awaits.port')
    expect(opcua.place(opcuaSettings.parse(awaits('urn:port:arm')))).toBe('urn:port:arm dials 127.0.0.1:4843')
    expect(opcua.goal(opcuaSettings.parse(awaits('urn:port:arm')))).toBeNull()
  })

  it('keep a secret only while the same server is meant', () => {
    const is = (settings: object) => opcuaSettings.parse(settings)
    expect(whyNotKept(is(awaits('urn:a')), is(awaits('urn:a')))).toBeNull()
    expect(whyNotKept(is(awaits('urn:a')), is(awaits('urn:b')))).toMatch(/another address/)
    expect(whyNotKept(is({ address: 'arm1' }), is(awaits('urn:a')))).toMatch(/another address/)
    expect(whyNotKept(is(awaits('urn:a')), is({ address: 'arm1' }))).toMatch(/another address/)
  })
})

describe('certificates', () => {
  const year = 365 * 86_400_000
  const facts: CertificateFacts = {
    subject: 'CN=Arm',
    name: 'Arm',
    issuer: 'CN=Arm',
    selfSigned: true,
    isAuthority: false,
    validFrom: 0,
    validTo: year,
    hosts: ['arm1.port.example', '10.8.0.12'],
    applicationUri: 'urn:arm:1',
    keyBits: 2048,
    fingerprint: 'ab'.repeat(32),
    fingerprintSha1: 'cd'.repeat(20),
  }
  const kinds = (changes: Partial<CertificateFacts>, expected: Partial<Parameters<typeof judge>[1]> = {}) =>
    judge({ ...facts, ...changes }, { now: year / 2, host: 'ARM1.port.example.', applicationUri: 'urn:arm:1', ...expected }).map(
      ({ kind }) => kind,
    )

  it('is sound when time, host, application and key are right', () => expect(kinds({})).toEqual([]))
  it('names everything that is wrong, the gravest first', () => {
    expect(kinds({ keyBits: 1024 })).toEqual(['key-short'])
    expect(kinds({}, { now: year + 1 })).toEqual(['expired'])
    expect(kinds({ validFrom: year / 2 + 1 })).toEqual(['not-yet'])
    expect(kinds({}, { host: 'arm2' })).toEqual(['host'])
    expect(kinds({}, { host: '10.8.0.12' })).toEqual([])
    expect(kinds({ applicationUri: null })).toEqual(['uri'])
    expect(kinds({ keyBits: 1024, hosts: [] }, { now: year + 1, applicationUri: 'urn:x' })).toEqual(['key-short', 'expired', 'host', 'uri'])
  })
  it('the names of loopback are one', () => expect(kinds({ hosts: ['localhost'] }, { host: '127.0.0.1' })).toEqual([]))
  it('a short key is nothing that anybody may accept', () => {
    expect(isAcceptable({ kind: 'key-short', text: '' })).toBe(false)
    expect(isAcceptable({ kind: 'expired', text: '' })).toBe(true)
  })
  it('fingerprints come in groups that people can compare', () => expect(fingerprintText('b2904f116a7e')).toBe('B2 90 4F 11 · 6A 7E'))
})

describe('ways in', () => {
  it('come safest first', () => {
    const offer = (policy: Offer['policy'], mode: Offer['mode']) => ({ policy, mode, level: 0 }) as Offer
    const shown = safestFirst([
      offer('None', 'None'),
      offer('Aes256_Sha256_RsaPss', 'Sign'),
      offer('Basic256Sha256', 'SignAndEncrypt'),
      offer('Aes256_Sha256_RsaPss', 'SignAndEncrypt'),
    ])
    expect(shown.map(({ policy, mode }) => `${policy} ${mode}`)).toEqual([
      'Aes256_Sha256_RsaPss SignAndEncrypt',
      'Basic256Sha256 SignAndEncrypt',
      'Aes256_Sha256_RsaPss Sign',
      'None None',
    ])
  })
})

describe('points of an OPC UA link', () => {
  const problems = (more: object) => opcua.problems({ address: 'i=2258', type: 'float64', options: {}, access: 'read', ...more }, {})
  it('are refused at the field where they are wrong', () => {
    expect(problems({})).toEqual([])
    expect(problems({ address: 'Plug' })).toMatchObject([{ field: 'address' }])
    expect(problems({ options: { member: 'a..b' } })).toMatchObject([{ field: 'options.member' }])
    expect(problems({ type: 'string', options: { deadband: { kind: 'absolute', value: 1 } } })).toMatchObject([
      { field: 'options.deadband' },
    ])
    expect(problems({ options: { deadband: { kind: 'percent', value: 101 } } })).toMatchObject([{ field: 'options.deadband' }])
    expect(problems({ options: { member: 'A', deadband: { kind: 'absolute', value: 1 } } })).toMatchObject([{ field: 'options.deadband' }])
  })
  it('go by their identifier in lists, whose namespace is the same all along', () => {
    expect(opcua.shortAddress('nsu=urn:arm;s=Plug.Position')).toBe('s=Plug.Position')
    expect(opcua.shortAddress('i=2258')).toBe('i=2258')
  })
})
