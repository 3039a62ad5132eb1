import { createServer } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { checkModbus } from '#engine/links/modbus/check'
import { tryReadModbus } from '#engine/links/modbus/tryRead'
import type { CheckStep } from '#shared/status'
import { freePort } from '../../launcher/ports.mjs'
import { feederPlant, powerOf } from '../support/feederPlant'
import { settingsFor } from '../support/modbusSession'
import { until } from '../support/until'
import { Wire } from '#engine/wire/wire'

const { closing, closeAll, plant, open } = feederPlant()
afterEach(closeAll)

describe('a unit that stays silent', () => {
  it.each([1, 4])('costs the others nothing, with %i connections', async (connections) => {
    const { port, fail, meter } = await plant()
    const settings = settingsFor(port, {
      requests: { connections, inFlight: 2 },
      leaveOut: { after: 2, for: 60_000 },
      patience: { answer: 150 },
    })
    const { quality: qualityOf, unit, journal } = open(settings, powerOf(11, 12, 13))
    await until(() => [11, 12, 13].every((u) => qualityOf(`${u}:holding/40`) === quality.Good))
    fail(13, 'silence')
    await until(() => qualityOf('13:holding/40') === quality.BadNoCommunication)
    expect(unit(13)).toMatchObject({ flow: 'broken', lastFault: { code: 'modbus.silent' } })
    const before = meter(11).requests
    await until(() => meter(11).requests > before + 20)
    expect(qualityOf('11:holding/40')).toBe(quality.Good)
    expect(journal.entries.some(({ text }) => text.includes('Unit 13 was silent 2 times'))).toBe(true)
  })

  it('keeps its last value, and comes back by itself', async () => {
    const { port, fail } = await plant()
    const settings = settingsFor(port, { leaveOut: { after: 2, for: 500 }, patience: { answer: 100 } })
    const { quality: qualityOf, value, journal } = open(settings, powerOf(13))
    await until(() => qualityOf('13:holding/40') === quality.Good)
    const last = value('13:holding/40')
    fail(13, 'silence')
    await until(() => qualityOf('13:holding/40') === quality.UncertainLastUsableValue)
    await until(() => qualityOf('13:holding/40') === quality.BadNoCommunication)
    expect(value('13:holding/40')).toBe(last)
    fail(13, null)
    await until(() => qualityOf('13:holding/40') === quality.Good)
    expect(journal.entries.some(({ text }) => text.includes('answers again'))).toBe(true)
  })

  it('is polled on when nobody wants it left out', async () => {
    const { port, fail, meter } = await plant()
    const { quality: qualityOf, unit } = open(settingsFor(port, { leaveOut: { after: 0 }, patience: { answer: 60 } }), powerOf(13))
    await until(() => qualityOf('13:holding/40') === quality.Good)
    fail(13, 'silence')
    await until(() => qualityOf('13:holding/40') === quality.BadNoCommunication)
    expect(unit(13)!.leftOutUntil).toBeNull()
    fail(13, null)
    const before = meter(13).requests
    await until(() => qualityOf('13:holding/40') === quality.Good && meter(13).requests > before)
  })
})

describe('a busy moment of our own', () => {
  it('is not taken for silence of the device', async () => {
    const { port } = await plant()
    const { quality: qualityOf, unit } = open(settingsFor(port, { patience: { answer: 100 }, interval: 10 }), powerOf(11))
    await until(() => qualityOf('11:holding/40') === quality.Good)
    for (let i = 0; i < 5; i++) {
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 300)
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    expect(unit(11)!.failures).toBe(0)
  })
})

describe('a dropped connection', () => {
  it('is opened again, and says what happened', async () => {
    const { gateway, port } = await plant()
    const { quality: qualityOf, journal, session } = open(settingsFor(port), powerOf(11, 12))
    await until(() => qualityOf('12:holding/40') === quality.Good)
    gateway.dropAll()
    await until(() => qualityOf('11:holding/40') === quality.BadNotConnected)
    expect(session.status().flow).not.toBe('flowing')
    await until(() => qualityOf('11:holding/40') === quality.Good && qualityOf('12:holding/40') === quality.Good)
    expect(journal.entries.some(({ fault }) => fault?.code === 'tcp.closed')).toBe(true)
  })

  it('beside a working one makes units share: the device allows no more', async () => {
    const { port } = await plant(1)
    const { quality: qualityOf, journal, session } = open(settingsFor(port), powerOf(11, 12, 13))
    await until(() => [11, 12, 13].every((u) => qualityOf(`${u}:holding/40`) === quality.Good))
    await until(() => session.status().connections === 1)
    expect(journal.entries.some(({ text }) => text.includes('no more than'))).toBe(true)
  })
})

describe('addresses that the device does not have', () => {
  it('are cornered, and cost their neighbours nothing', async () => {
    const { port } = await plant()
    const points = [40, 42, 44, 46, 48, 50].map((offset) => ({ address: `11:holding/${offset}`, type: 'float32' as const }))
    const { quality: qualityOf } = open(settingsFor(port), points)
    await until(
      () => qualityOf('11:holding/46') === quality.BadConfigurationError && qualityOf('11:holding/48') === quality.BadConfigurationError,
    )
    await until(() => ['40', '42', '44', '50'].every((offset) => qualityOf(`11:holding/${offset}`) === quality.Good))
  })
})

describe('tags that change while replies are under way', () => {
  it('never get a value that was meant for another tag', async () => {
    const { port, meter, fail } = await plant()
    meter(11).fault.delay = 200
    const {
      table,
      session,
      handleOf,
      quality: qualityOf,
    } = open(settingsFor(port), [
      { address: '11:holding/40', type: 'float32' },
      { address: '11:holding/42', type: 'float32' },
    ])
    await until(() => qualityOf('11:holding/40') === quality.Good)
    fail(11, 'slow')
    // polled every 50 ms and answered after 200: a request is always under way now
    await new Promise((resolve) => setTimeout(resolve, 150))
    meter(11).pinned.set('active_power', 555)
    const handle = handleOf('11:holding/40')
    session.setPoints([], [handle])
    table.release(handle)
    const reused = table.allocate()
    expect(reused).toBe(handle)
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect(table.quality[reused]).toBe(quality.BadWaitingForInitialData)
    expect(table.values[reused]).toBeUndefined()
  })

  it('are read at once when they are new, however long their interval', async () => {
    const { port } = await plant()
    const slow = { more: { interval: 3_600_000 } }
    const { table, session, points, quality: qualityOf } = open(settingsFor(port), [{ address: '11:holding/40', type: 'float32', ...slow }])
    await until(() => qualityOf('11:holding/40') === quality.Good)
    const later = { ...points[0]!, handle: table.allocate(), address: '11:holding/90', path: 'later' }
    session.setPoints([later], [])
    await until(() => table.quality[later.handle] === quality.Good, Boolean, 3)
  })
})

describe('a unit that is left out', () => {
  it('is asked with one request at a time, however many intervals its tags have', async () => {
    const { port, fail } = await plant()
    const points = [100, 200, 300].map((interval, i) => ({
      address: `11:holding/${40 + 2 * i}`,
      type: 'float32' as const,
      more: { interval },
    }))
    const settings = settingsFor(port, {
      requests: { connections: 1, inFlight: 8 },
      leaveOut: { after: 2, for: 500 },
      patience: { answer: 100 },
    })
    const { unit, quality: qualityOf } = open(settings, points)
    await until(() => points.every(({ address }) => qualityOf(address) === quality.Good))
    fail(11, 'silence')
    await until(() => unit(11)!.leftOutUntil !== null)
    await new Promise((resolve) => setTimeout(resolve, 300))
    const failures = unit(11)!.failures
    await until(() => unit(11)!.failures > failures)
    await new Promise((resolve) => setTimeout(resolve, 150))
    expect(unit(11)!.failures).toBe(failures + 1)
    fail(11, null)
    await until(() => points.every(({ address }) => qualityOf(address) === quality.Good))
  })
})

describe('settings applied while running', () => {
  it('keep the connections open when only the reading changes', async () => {
    const { port, gateway } = await plant()
    const settings = settingsFor(port)
    const { session, quality: qualityOf, value } = open(settings, [{ address: '11:holding/60', type: 'uint32' }])
    await until(() => qualityOf('11:holding/60') === quality.Good)
    const seen = value('11:holding/60') as number
    let reconnected = false
    gateway['server'].on('connection', () => (reconnected = true))
    session.update({ ...settings, order: 'CDAB', interval: 80 })
    await until(() => value('11:holding/60') === (seen & 0xffff) * 65536 + (seen >>> 16))
    expect(reconnected).toBe(false)
    session.update({ ...settings, port: await freePort() })
    await until(() => qualityOf('11:holding/60') === quality.BadNotConnected)
  })
})

describe('writes', () => {
  it('to a silent unit hold up nobody else’s', async () => {
    const { port, fail, meter } = await plant()
    const limitOf = (unit: number) => ({
      address: `${unit}:holding/90`,
      type: 'float32' as const,
      more: { options: { order: 'CDAB' as const } },
    })
    const { write, value } = open(settingsFor(port, { patience: { answer: 1000 }, leaveOut: { after: 0 } }), [limitOf(11), limitOf(13)])
    await until(() => value('11:holding/90') === 1900 && value('13:holding/90') === 1900)
    fail(13, 'silence')
    const order: string[] = []
    const stuck = Promise.all([1, 2].map((limit) => write('13:holding/90', limit))).then(() => order.push('silent unit'))
    const quick = write('11:holding/90', 500).then(() => order.push('sound unit'))
    await Promise.all([stuck, quick])
    expect(order).toEqual(['sound unit', 'silent unit'])
    expect(meter(11).berth.state.tripLimit).toBe(500)
  })

  it('go between reads, in order, and report what the device then holds', async () => {
    const { port, meter } = await plant()
    const { write, value } = open(settingsFor(port, { requests: { connections: 1 } }), [
      { address: '11:holding/90', type: 'float32', more: { options: { order: 'CDAB' } } },
      ...powerOf(12, 13),
    ])
    await until(() => value('11:holding/90') === 1900)
    const outcomes = await Promise.all([100, 200, 300, 400].map((limit) => write('11:holding/90', limit)))
    expect(outcomes.every(({ ok }) => ok)).toBe(true)
    expect(meter(11).berth.state.tripLimit).toBe(400)
    expect(value('11:holding/90')).toBe(400)
  })

  it('keep only the latest per tag where the link says so', async () => {
    const { port, meter } = await plant()
    const { write, value } = open(settingsFor(port, { writes: { keep: 'latest' } }), [
      { address: '11:holding/90', type: 'float32', more: { options: { order: 'CDAB' } } },
    ])
    await until(() => value('11:holding/90') === 1900)
    const outcomes = await Promise.all([100, 200, 300, 400].map((limit) => write('11:holding/90', limit)))
    expect(outcomes.map((outcome) => (outcome.ok ? 'written' : outcome.fault.code))).toEqual([
      'written',
      'write.superseded',
      'write.superseded',
      'written',
    ])
    expect(meter(11).berth.state.tripLimit).toBe(400)
  })
})

describe('single bits of a register', () => {
  it.each([
    ['with function 22', false],
    ['by reading and writing back, where function 22 is not offered', true],
  ])('are written %s, and the neighbours stay', async (_, lacks) => {
    const { port, meter } = await plant()
    if (lacks) meter(11).unknownFunctions.add(22)
    const { write, value } = open(settingsFor(port), [
      { address: '11:holding/94.4', type: 'bool' },
      { address: '11:holding/94', type: 'uint16' },
    ])
    await until(() => value('11:holding/94') === 0b11)
    expect(await write('11:holding/94.4', true)).toEqual({ ok: true })
    expect(await write('11:holding/94.4', true)).toEqual({ ok: true })
    await until(() => value('11:holding/94') === 0b10011)
    expect(value('11:holding/94.4')).toBe(true)
  })
})

describe('the check', () => {
  const walk = async (...args: Parameters<typeof settingsFor>) => {
    const steps = new Map<string, CheckStep>()
    for await (const step of checkModbus(settingsFor(...args), new AbortController().signal, { wire: new Wire(), beside: [] }))
      steps.set(step.step, step)
    return Object.fromEntries(steps)
  }

  it('passes with a device that answers', async () => {
    const { port } = await plant()
    const { name, port: portStep, reply } = await walk(port, { unit: 11 })
    expect([name, portStep, reply].map((step) => step!.flow)).toEqual(['flowing', 'flowing', 'flowing'])
    expect(reply!.evidence).toContain('exception 2')
  })

  it('names the step that fails, whose side it is, and leaves the rest unreached', async () => {
    const { port, fail } = await plant()
    expect(await walk(await freePort())).toMatchObject({
      port: { flow: 'broken', fault: { code: 'tcp.refused', side: 'device' } },
      reply: { flow: 'off' },
    })
    expect(await walk(port, { host: 'no-such-host.invalid' })).toMatchObject({
      name: { flow: 'broken', fault: { code: 'name.unknown' } },
      port: { flow: 'off' },
    })
    fail(11, 'silence')
    expect(await walk(port, { unit: 11 })).toMatchObject({ port: { flow: 'flowing' }, reply: { fault: { code: 'modbus.silent' } } })
    expect(await walk(port, { unit: 99 })).toMatchObject({ reply: { fault: { code: 'modbus.exception' } } })
    expect(await walk(port, { localAddress: '192.0.2.1' })).toMatchObject({ port: { fault: { code: 'tcp.local-address', side: 'here' } } })
  })

  it('recognises a service that does not speak Modbus', async () => {
    const web = createServer((socket) =>
      socket
        .on('error', () => {})
        .resume()
        .end('HTTP/1.1 400 Bad Request\r\n\r\n'),
    )
    await new Promise<void>((resolve) => web.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise((resolve) => web.close(() => resolve())))
    const { reply } = await walk((web.address() as { port: number }).port)
    expect(reply).toMatchObject({ flow: 'broken', fault: { code: 'modbus.not-modbus' } })
  })
})

describe('trying an address', () => {
  it('gives every reading of its words, without making a tag', async () => {
    const { port, meter } = await plant()
    const origin = await tryReadModbus(
      settingsFor(port),
      { address: '11:holding/40', type: 'uint16', options: {}, access: 'read' },
      new Wire(),
    )
    expect(origin.fault).toBeNull()
    const swapped = origin.readings.find(({ label }) => label === 'float32 CDAB')!
    expect(Number(swapped.text)).toBeCloseTo(meter(11).berth.state.activePower, 0)
    expect(swapped.plausible).toBe(true)
    expect(origin.readings.find(({ inUse }) => inUse)?.label).toBe('uint16')
    const nothing = await tryReadModbus(
      settingsFor(port),
      { address: '11:holding/47', type: 'uint16', options: {}, access: 'read' },
      new Wire(),
    )
    expect(nothing.fault).toMatchObject({ code: 'modbus.exception' })
  })

  it('touches nothing beside its point that no request may touch', async () => {
    const { port } = await plant()
    const hole = { unit: null, table: 'holding' as const, from: 42, to: 43 }
    const read = (holes: (typeof hole)[]) =>
      tryReadModbus({ ...settingsFor(port), holes }, { address: '11:holding/40', type: 'uint16', options: {}, access: 'read' }, new Wire())
    expect((await read([])).wordsFrom).toBe('4 words from holding/40')
    expect((await read([hole])).wordsFrom).toBe('2 words from holding/40')
  })
})
