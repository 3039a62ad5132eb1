import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { linkType, packetBlock, readCapture, type Packet } from '#core/traffic/capture/blocks'
import { ethernetPacket, segmentOf, tcpFlag } from '#core/traffic/capture/headers'
import { CaptureReader } from '#core/traffic/capture/streams'
import { CaptureWriter } from '#core/traffic/capture/written'
import type { FrameConnection, PassedFrame } from '#core/traffic/frameBook'

/** Files of captured packets, written here and elsewhere. */

const joined = (parts: readonly Uint8Array[]) => new Uint8Array(Buffer.concat(parts))
const framesIn = (packets: readonly Packet[], kind: string | null = null) => {
  const reader = new CaptureReader(kind)
  const frames = packets.flatMap((packet) => reader.take(packet))
  frames.push(...reader.end(0))
  return { frames, connections: reader.connections(), found: reader.found }
}
const connection = (id: number, peer: string, kind = 'modbus-tcp', here = ''): FrameConnection => ({ id, here, peer, kind, asks: true })
const mbap = (n: number, pdu: number[]) => Uint8Array.from([n >> 8, n & 255, 0, 0, 0, pdu.length + 1, 11, ...pdu])

describe('what is written', () => {
  it('is read back: times to the microsecond, ways, bytes, and which connection', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ connection: fc.constantFrom(1, 2), out: fc.boolean(), size: fc.integer({ min: 1, max: 240 }), us: fc.nat(1000) }), { minLength: 1, maxLength: 40 }), // prettier-ignore
        (made) => {
          let micros = 1_795_946_064_733_000
          const frames = made.map(({ connection, out, size, us }, i): PassedFrame => {
            micros += us
            const bytes = mbap(
              i,
              Array.from({ length: size }, (_, k) => (k * 7 + i) & 255),
            )
            return { at: micros / 1000, connection, out, length: bytes.length, bytes }
          })
          const places = new Map([1, 2].map((id) => [id, connection(id, `10.8.0.${id}:502`, 'modbus-tcp', `10.8.0.9:5000${id}`)]))
          const writer = new CaptureWriter(places)
          const file = joined([...writer.begin('modbus-tcp', 'Berth meters'), ...frames.flatMap((frame) => writer.packets(frame))])
          const { packets, problem } = readCapture(file)
          expect(problem).toBeNull()
          const read = framesIn(packets)
          const byPeer = new Map(read.connections.map(({ id, peer }) => [id, peer]))
          expect(
            read.frames.map(({ at, connection, out, bytes }) => [Math.round(at * 1000), byPeer.get(connection), out, [...bytes]]),
          ).toEqual(frames.map(({ at, connection, out, bytes }) => [Math.round(at * 1000), `10.8.0.${connection}:502`, out, [...bytes]]))
          expect(read.found).toEqual({ others: 0, repeatedBytes: 0, gaps: 0, missingBytes: 0 })
        },
      ),
      { numRuns: 50 },
    )
  })

  it('has check sums that are right, over both kinds of addresses', () => {
    const onesSum = (bytes: Uint8Array) => {
      let total = 0
      for (let i = 0; i < bytes.length; i += 2) total += (bytes[i]! << 8) + (bytes[i + 1] ?? 0)
      while (total >> 16) total = (total & 0xffff) + (total >> 16)
      return total
    }
    for (const host of ['10.8.0.4', 'fd00::4'])
      for (const tcp of [{ sequence: 5, acknowledged: 7, flags: tcpFlag.ack }, null]) {
        const segment = {
          from: { host, port: 50_001 },
          to: { host: host.replace('4', '5'), port: 502 },
          tcp,
          payload: Uint8Array.of(1, 2, 3),
        }
        const packet = ethernetPacket(segment, 1)
        const [ip, wide] = [packet.subarray(14), host.includes(':')]
        if (!wide) expect(onesSum(ip.subarray(0, 20))).toBe(0xffff)
        const addresses = wide ? ip.subarray(8, 40) : ip.subarray(12, 20)
        const content = ip.subarray(wide ? 40 : 20)
        const pseudo = Uint8Array.from([...addresses, 0, tcp ? 6 : 17, content.length >> 8, content.length & 255])
        expect(onesSum(joined([pseudo, content, new Uint8Array(content.length & 1)]))).toBe(0xffff)
        expect(segmentOf(packet, linkType.ethernet)).toMatchObject({ from: segment.from, to: segment.to, tcp, missing: 0 })
      }
  })

  it('cuts what is longer than a packet, and keeps the place of what was not kept', () => {
    const body = new Uint8Array(9000).fill(65)
    const places = new Map([[1, connection(1, '10.8.0.1:80', 'http')]])
    const writer = new CaptureWriter(places)
    const frame = { at: 1000, connection: 1, out: true, length: 12_000, bytes: body }
    const { packets } = readCapture(joined([...writer.begin('http', ''), ...writer.packets(frame)]))
    expect(packets.length).toBe(3 + Math.ceil(12_000 / 1460))
    expect(framesIn(packets).frames.reduce((sum, { length }) => sum + length, 0)).toBe(12_000)
  })

  it('of a serial line has no addresses, and tells which way each frame went', () => {
    const writer = new CaptureWriter(new Map([[1, connection(1, 'ttyS0', 'modbus-line')]]))
    const frame = (out: boolean) => ({ at: 5, connection: 1, out, length: 2, bytes: Uint8Array.of(1, 2) })
    const file = joined([...writer.begin('modbus-line', ''), ...[true, false, true].flatMap((out) => writer.packets(frame(out)))])
    const { frames, connections } = framesIn(readCapture(file).packets)
    expect(frames.map(({ out }) => out)).toEqual([true, false, true])
    expect(connections).toMatchObject([{ kind: 'modbus-line' }])
  })
})

const tcp = (
  from: string,
  to: string,
  sequence: number,
  payload: Uint8Array | number[] = [],
  flags: number = tcpFlag.ack,
  us = 0,
): Packet => {
  const place = (text: string) => ({ host: text.split(':')[0]!, port: Number(text.split(':')[1]) })
  const segment = { from: place(from), to: place(to), tcp: { sequence, acknowledged: 0, flags }, payload: Uint8Array.from(payload) }
  const bytes = ethernetPacket(segment, 1)
  return { micros: us, link: linkType.ethernet, bytes, length: bytes.length }
}
const [us, meter] = ['10.8.0.9:50001', '10.8.0.4:502']

describe('streams', () => {
  const first = mbap(1, [3, 0, 40, 0, 1])
  const second = mbap(2, [3, 0, 41, 0, 1])
  const both = joined([first, second])

  it('are put together in order, whatever came early, twice, or in pieces', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: both.length - 1 }), { maxLength: 5 }), fc.infiniteStream(fc.nat()), (cuts, random) => {
        const edges = [...new Set([0, ...cuts, both.length])].sort((a, b) => a - b)
        const pieces = edges.slice(1).map((end, i) => tcp(us, meter, 1001 + edges[i]!, both.subarray(edges[i], end)))
        // each one, and some of them twice, in any order
        const sent = [...pieces, ...pieces.slice(0, 2)].map((packet) => ({ packet, at: random.next().value as number }))
        const packets = sent.sort((a, b) => a.at - b.at).map(({ packet }) => packet)
        const { frames, found } = framesIn([tcp(us, meter, 1000, [], tcpFlag.syn), ...packets])
        expect(frames.map(({ bytes, out }) => [[...bytes], out])).toEqual([
          [[...first], true],
          [[...second], true],
        ])
        expect(found.gaps).toBe(0)
      }),
    )
  })

  it('go on behind a gap, which is told', () => {
    const { frames, found } = framesIn([tcp(us, meter, 1, [], tcpFlag.syn), tcp(us, meter, 2, first), tcp(us, meter, 2 + 12 + 24, second)])
    expect(frames.map(({ length }) => length)).toEqual([first.length, second.length])
    expect(found).toMatchObject({ gaps: 1, missingBytes: 24 })
  })

  it('of which the beginning was not captured are read from where they are', () => {
    const { frames, connections } = framesIn([tcp(meter, us, 77, mbap(1, [3, 2, 0, 7])), tcp(us, meter, 900, second)])
    expect(frames.map(({ out }) => out)).toEqual([false, true])
    expect(connections).toEqual([{ id: 1, here: us, peer: meter, kind: 'modbus-tcp', asks: true }])
  })

  it('of one pair of ports that begin anew are two connections', () => {
    const begin = (at: number) => [tcp(us, meter, at, [], tcpFlag.syn), tcp(us, meter, at + 1, first)]
    expect(framesIn([...begin(100), ...begin(5000)]).connections.map(({ id }) => id)).toEqual([1, 2])
  })

  it('are told by what they speak, on any port, or read as what somebody says', () => {
    const [a, b] = ['10.8.0.9:50001', '10.8.0.4:9999']
    const hello = Buffer.from('48454c4620000000000000000000010000000100000000000000000000000000', 'hex')
    expect(framesIn([tcp(a, b, 1, hello)]).connections[0]!.kind).toBe('opcua')
    expect(framesIn([tcp(a, b, 1, Buffer.from('GET / HTTP/1.1\r\n\r\n'))]).connections[0]!.kind).toBe('http')
    expect(framesIn([tcp(a, b, 1, Buffer.from('who knows'))]).connections[0]!.kind).toBe('')
    expect(framesIn([tcp(a, b, 1, Buffer.from('who knows'))], 'mqtt').connections[0]!.kind).toBe('mqtt')
  })

  it('count what is neither TCP nor UDP', () => {
    const arp = new Uint8Array(60)
    arp.set([0x08, 0x06], 12)
    expect(framesIn([{ micros: 0, link: linkType.ethernet, bytes: arp, length: 60 }]).found.others).toBe(1)
  })
})

describe('files of others', () => {
  it('may be of the older kind, in either order of bytes', () => {
    const packet = tcp(us, meter, 1, mbap(1, [3, 0, 40, 0, 1])).bytes
    for (const little of [true, false]) {
      const head = new DataView(new ArrayBuffer(40))
      ;[0xa1b2c3d4, 0x00020004, 0, 0, 65_535, 1, 1_795_946_064, 733_118, packet.length, packet.length].forEach((value, i) => head.setUint32(4 * i, value, little)) // prettier-ignore
      const { packets, problem } = readCapture(joined([new Uint8Array(head.buffer), packet]))
      expect(problem).toBeNull()
      expect(packets.map(({ micros, link }) => [micros, link])).toEqual([[1_795_946_064_733_118, 1]])
      expect(framesIn(packets).frames).toHaveLength(1)
    }
  })

  it('may have times in nanoseconds, several sections, blocks that nobody knows, and marks of virtual networks', () => {
    const u32 = (...values: number[]) => {
      const view = new DataView(new ArrayBuffer(4 * values.length))
      values.forEach((value, i) => view.setUint32(4 * i, value))
      return new Uint8Array(view.buffer)
    }
    const block = (type: number, body: Uint8Array) => joined([u32(type, body.length + 12), body, u32(body.length + 12)])
    const section = block(0x0a0d0d0a, u32(0x1a2b3c4d, 0x00010000, 0xffffffff, 0xffffffff))
    const description = block(1, u32(0x00010000, 0, 0x00090001, 0x09000000, 0))
    const plain = tcp(us, meter, 1, mbap(1, [3, 0, 40, 0, 1])).bytes
    const marked = joined([plain.subarray(0, 12), Uint8Array.of(0x81, 0, 0, 5), plain.subarray(12), new Uint8Array(2)])
    const nanos = 1_795_946_064_733_118_500n
    const packet = block(6, joined([u32(0, Number(nanos >> 32n), Number(nanos & 0xffffffffn), marked.length, marked.length), marked]))
    const { packets, problem } = readCapture(joined([section, description, block(0xbad, u32(1, 2)), packet, section, description, packet]))
    expect(problem).toBeNull()
    expect(packets.map(({ micros }) => micros)).toEqual([1_795_946_064_733_118, 1_795_946_064_733_118])
    expect(framesIn(packets).frames[0]).toMatchObject({ out: true, length: 12 })
  })

  it('that are broken give what came before, and say what is wrong', () => {
    const writer = new CaptureWriter(new Map())
    const file = joined([...writer.begin('mqtt', ''), packetBlock(1, Uint8Array.of(1, 2, 3), 3), packetBlock(2, Uint8Array.of(4), 1)])
    expect(readCapture(file.subarray(0, file.length - 5))).toMatchObject({ packets: [{ micros: 1 }], problem: 'the last block is cut off' })
    expect(readCapture(Uint8Array.of(1, 2, 3)).problem).toMatch(/too short/)
    expect(readCapture(new Uint8Array(100)).problem).toMatch(/neither/)
  })

  it('whatever is in them, end nothing', () => {
    const writer = new CaptureWriter(new Map([[1, connection(1, '10.8.0.1:502')]]))
    const whole = joined([...writer.begin('modbus-tcp', ''), ...writer.packets({ at: 1, connection: 1, out: true, length: 12, bytes: mbap(1, [3, 0, 1, 0, 1]) })]) // prettier-ignore
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 12 }), fc.nat(whole.length), (changes, cut) => {
        const file = Uint8Array.from(whole.subarray(0, whole.length - cut))
        for (const [at, value] of changes) if (at < file.length) file[at] = value
        framesIn(readCapture(file).packets)
      }),
      { numRuns: 3000 },
    )
  })
})
