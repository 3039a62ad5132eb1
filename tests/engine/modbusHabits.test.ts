import { createServer, type Socket } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { checkModbus } from '#engine/links/modbus/check'
import type { CheckStep } from '#shared/status'
import { closeAll, type Closing } from '../support/engineOn'
import { openSession, settingsFor } from '../support/modbusSession'
import { until } from '../support/until'
import { Wire } from '#engine/wire/wire'

/**
 * Devices with habits that real ones have, written from the bytes of the standard (Messaging on TCP/IP
 * Implementation Guide, 3.1.3) and not with our own codec.
 */

const closing: Closing = []
afterEach(() => closeAll(closing))

interface Asked {
  transaction: number
  unit: number
  fc: number
  offset: number
  count: number
}

/** @param answer gets each request that came, and the socket. */
const device = async (answer: (asked: Asked, socket: Socket) => void, accept: (socket: Socket, open: number) => boolean = () => true) => {
  let open = 0
  let accepted = 0
  const server = createServer((socket) => {
    socket.on('error', () => {})
    accepted++
    if (!accept(socket, open)) return void socket.destroy()
    open++
    socket.on('close', () => open--)
    socket.on('data', (data) => {
      for (let at = 0; at + 12 <= data.length; at += 6 + data.readUInt16BE(at + 4))
        answer(
          {
            transaction: data.readUInt16BE(at),
            unit: data[at + 6]!,
            fc: data[at + 7]!,
            offset: data.readUInt16BE(at + 8),
            count: data.readUInt16BE(at + 10),
          },
          socket,
        )
    })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(() => new Promise((resolve) => server.close(resolve)))
  return { port: (server.address() as { port: number }).port, accepted: () => accepted }
}

const frame = (transaction: number, unit: number, pdu: number[]) =>
  Buffer.from([transaction >> 8, transaction & 255, 0, 0, 0, pdu.length + 1, unit, ...pdu])
/** Each register holds its own offset. */
const registers = ({ offset, count }: Asked) => Array.from({ length: count }, (_, i) => [(offset + i) >> 8, (offset + i) & 255]).flat()
const reply = (asked: Asked) => frame(asked.transaction, asked.unit, [asked.fc, 2 * asked.count, ...registers(asked)])

const open = (port: number, addresses: string[], more: Parameters<typeof settingsFor>[1] = {}) => {
  const link = openSession(
    settingsFor(port, { requests: { connections: 1 }, ...more }),
    addresses.map((address) => ({ address, type: 'uint16' })),
  )
  closing.push(() => link.session.close())
  return link
}

const check = async (port: number, beside: string[] = []) => {
  const steps = new Map<string, CheckStep>()
  for await (const step of checkModbus(settingsFor(port, { unit: 1 }), new AbortController().signal, { wire: new Wire(), beside }))
    steps.set(step.step, step)
  return steps
}

describe('a device that closes the connection after each reply', () => {
  it('is read all the same, and the link says what that costs', async () => {
    const { port, accepted } = await device((asked, socket) => socket.end(reply(asked)))
    const link = open(port, ['1:holding/10', '1:holding/900', '1:holding/3000'])
    await until(() => link.session.status().sentence.includes('closes after each reply'))
    await until(() => ['1:holding/10', '1:holding/900', '1:holding/3000'].every((address) => link.quality(address) === quality.Good))
    expect([link.value('1:holding/900'), link.value('1:holding/3000')]).toEqual([900, 3000])
    const lost: number[] = []
    link.table.listen(() => lost.push(link.quality('1:holding/900')))
    const before = accepted()
    await until(() => accepted() > before + 12)
    expect(lost).toEqual([])
    expect(link.session.status()).toMatchObject({ flow: 'flowing', failures: 0 })
    expect(link.journal.entries.filter(({ text }) => text.includes('closes the connection after each reply'))).toHaveLength(1)
  })

  it('gets a write once, however often it closes', async () => {
    const writes: Asked[] = []
    const { port } = await device((asked, socket) => {
      if (asked.fc === 6) writes.push(asked)
      socket.end(asked.fc === 6 ? frame(asked.transaction, asked.unit, [6, 0, 10, 0, 7]) : reply(asked))
    })
    const link = open(port, ['1:holding/10'])
    await until(() => link.session.status().sentence.includes('closes after each reply'))
    expect(await link.write('1:holding/10', 7)).toEqual({ ok: true })
    expect(writes).toHaveLength(1)
  })
})

describe('a device that takes one connection', () => {
  const single = () =>
    device(
      (asked, socket) => socket.write(reply(asked)),
      (_, others) => others === 0,
    )

  it('is checked over the connection that the link holds', async () => {
    const { port } = await single()
    const link = open(port, ['1:holding/10'])
    await until(() => link.quality('1:holding/10') === quality.Good)
    const steps: CheckStep[] = []
    for await (const step of link.session.check()!) steps.push(step)
    expect(steps.map(({ flow }) => flow)).not.toContain('broken')
    expect(steps.at(-1)!.evidence).toContain('holding/0 is 0')
  })

  it('and is asked by another of ours, is held by our own link, and the check says by which', async () => {
    const { port } = await single()
    const link = open(port, ['1:holding/10'])
    await until(() => link.quality('1:holding/10') === quality.Good)
    const fault = (await check(port, ['Meters'])).get('reply')!.fault!
    expect([fault.code, fault.what]).toEqual(['modbus.place-taken', expect.stringContaining('our own link “Meters”')])
    expect((await check(port)).get('reply')!.fault!.code).toBe('tcp.closed')
  })
})

describe('what comes instead of a reply', () => {
  it.each([
    [
      'another transaction id',
      (asked: Asked) => frame(asked.transaction ^ 0x5555, asked.unit, [3, 2, 0, 1]),
      /transaction id that was not asked/,
    ],
    ['another unit', (asked: Asked) => frame(asked.transaction, 17, [3, 2, 0, 1]), /from unit 17, where unit 1 was asked/],
  ])('is told: %s', async (_, answer, words) => {
    const { port } = await device((asked, socket) => void socket.write(answer(asked)))
    const step = (await check(port)).get('reply')!
    expect([step.fault!.code, step.fault!.what]).toEqual(['modbus.unusable', expect.stringMatching(words)])
    const link = open(port, ['1:holding/10'], { patience: { answer: 60 }, leaveOut: { after: 2, for: 5000 } })
    await until(() => link.session.status().units![0]?.leftOutUntil !== null)
    expect(link.session.status().sentence).toMatch(/^Nothing usable for/)
    expect(link.session.status().units![0]!.lastFault!.what).toMatch(words)
  })

  it('is told: a frame that is never finished', async () => {
    const { port } = await device((asked, socket) => void socket.write(reply(asked).subarray(0, 9)))
    const words = /a frame was never finished, 9 bytes of it came/
    expect((await check(port)).get('reply')!.fault!.what).toMatch(/9 bytes of a frame that was never finished/)
    const link = open(port, ['1:holding/10'], { patience: { answer: 60 }, leaveOut: { after: 0 } })
    await until(() => words.test(link.session.status().sentence))
    expect(link.quality('1:holding/10')).not.toBe(quality.Good)
  })

  it.each([
    ['another function', (asked: Asked) => frame(asked.transaction, asked.unit, [4, 2, 0, 1]), /asked with function 3, answered with 4/],
    ['too few bytes', (asked: Asked) => frame(asked.transaction, asked.unit, [3, 9, 0, 1]), /expected 2 bytes/],
    ['an exception without its code', (asked: Asked) => frame(asked.transaction, asked.unit, [0x83]), /exception without its code/],
  ])('is malformed, in the fault and in the sentence: %s', async (_, answer, words) => {
    const { port } = await device((asked, socket) => void socket.write(answer(asked)))
    const link = open(port, ['1:holding/10'], { leaveOut: { after: 0 } })
    await until(() => link.session.status().units![0]?.lastFault?.code === 'modbus.malformed')
    await until(() => words.test(link.session.status().sentence))
    expect(link.session.status().sentence).not.toMatch(/silent|without a reply/i)
  })

  it.each([
    ['a web server (HTTP)', 'HTTP/1.1 400 Bad Request\r\n\r\n'],
    ['a secure shell (SSH)', 'SSH-2.0-harbour\r\n'],
    ['a TLS service', '\u0015\u0003\u0001\u0000\u0002\u0002\u0032'],
  ])('is named where its first bytes tell: %s', async (service, bytes) => {
    const { port } = await device((_, socket) => void socket.write(Buffer.from(bytes, 'latin1')))
    const fault = (await check(port)).get('reply')!.fault!
    expect([fault.code, fault.what]).toEqual(['modbus.not-modbus', expect.stringContaining(service)])
  })

  it('is not read for ever where it is a flood', async () => {
    const { port } = await device((asked, socket) => {
      const foreign = Buffer.concat(Array.from({ length: 500 }, (_, i) => frame(i + 30_000, asked.unit, [3, 2, 0, 1])))
      const more = () => !socket.destroyed && socket.write(foreign, () => setImmediate(more))
      more()
    })
    const link = open(port, ['1:holding/10'], { patience: { answer: 3000 } })
    await until(() => link.journal.entries.some(({ fault }) => fault?.code === 'modbus.flood'))
    expect(link.quality('1:holding/10')).not.toBe(quality.Good)
  })
})

describe('addresses that a device refuses', () => {
  it('are named with their tags, and do not make the link late', async () => {
    const { port } = await device((asked, socket) => {
      const covers = asked.offset <= 20 && asked.offset + asked.count > 20
      socket.write(covers ? frame(asked.transaction, asked.unit, [0x83, 2]) : reply(asked))
    })
    const link = open(port, ['1:holding/10', '1:holding/20', '1:holding/30'])
    await until(() => link.session.status().units![0]?.refusedCount === 1)
    await until(() => link.session.status().flow === 'flowing')
    const status = link.session.status()
    expect(status.sentence).toMatch(/the device refuses holding\/20/)
    expect(status.units![0]!.refused).toMatchObject([
      { path: '1:holding/20', address: 'holding/20', why: expect.stringContaining('exception 2') },
    ])
  })

  it('while it is starting are asked for again after a loss', async () => {
    let starting = true
    const { port } = await device((asked, socket) =>
      socket.write(starting ? frame(asked.transaction, asked.unit, [0x83, 2]) : reply(asked)),
    )
    const link = open(port, ['1:holding/10', '1:holding/11', '1:holding/12'])
    await until(() => link.session.status().units![0]?.refusedCount === 3)
    starting = false
    const [lane] = link.session['lanes']
    lane!['connection']!['socket'].destroy()
    await until(() => ['1:holding/10', '1:holding/11', '1:holding/12'].every((address) => link.quality(address) === quality.Good))
    expect(link.session.status().units![0]!.rounds[0]!.requests).toBe(1)
  })
})

describe('the journal of a link', () => {
  it('tells of no return without a loss before it', async () => {
    const { port } = await device((asked, socket) => void socket.write(reply(asked)))
    const link = open(port, ['1:holding/10'])
    await until(() => link.quality('1:holding/10') === quality.Good)
    const answers = () => link.session['lanes'][0]!['connection']?.answers ?? 0
    for (let i = 0; i < 3; i++) {
      await until(() => answers() > 6)
      link.session['lanes'][0]!['connection']!['socket'].destroy()
      await until(() => link.quality('1:holding/10') === quality.BadNotConnected)
      await until(() => link.quality('1:holding/10') === quality.Good)
    }
    const kinds = link.journal.entries.map(({ text }) => (text === 'Connected again.' ? 'back' : 'lost'))
    expect(kinds).toEqual(['lost', 'back', 'lost', 'back', 'lost', 'back'])
  })
})
