import { createServer } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { feederPlant, powerOf } from '../support/feederPlant'
import { settingsFor } from '../support/modbusSession'
import { until } from '../support/until'

const { closing, closeAll, plant, open } = feederPlant()
afterEach(closeAll)

/** A device whose registers hold their own offsets, and that answers after a while. */
const offsetsAsValues = async () => {
  const pace = { delay: 0 }
  const server = createServer((socket) => {
    socket
      .on('error', () => {})
      .on('data', (request) => {
        const [offset, count] = [request.readUInt16BE(8), request.readUInt16BE(10)]
        const reply = Buffer.alloc(9 + 2 * count)
        request.copy(reply, 0, 0, 8)
        reply.writeUInt16BE(3 + 2 * count, 4)
        reply[8] = 2 * count
        for (let i = 0; i < count; i++) reply.writeUInt16BE(offset + i, 9 + 2 * i)
        setTimeout(() => socket.writable && socket.write(reply), pace.delay)
      })
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(() => new Promise((resolve) => server.close(() => resolve())))
  return { port: (server.address() as { port: number }).port, pace }
}

describe('replies that are not right', () => {
  it('with a foreign transaction id are dropped and counted', async () => {
    const { port, fail } = await plant()
    const { quality: qualityOf, unit } = open(settingsFor(port, { patience: { answer: 100 }, leaveOut: { after: 0 } }), powerOf(11))
    await until(() => qualityOf('11:holding/40') === quality.Good)
    fail(11, 'wrong-transaction')
    await until(() => (unit(11)?.foreignReplies ?? 0) >= 2)
    expect(qualityOf('11:holding/40')).not.toBe(quality.Good)
    fail(11, null)
    await until(() => qualityOf('11:holding/40') === quality.Good)
  })

  it('that come too late are dropped and counted, and never taken for the next answer', async () => {
    const { port, pace } = await offsetsAsValues()
    const points = [100, 300].map((offset) => ({ address: `11:holding/${offset}`, type: 'uint16' as const }))
    const {
      unit,
      quality: qualityOf,
      table,
      handleOf,
    } = open(settingsFor(port, { patience: { answer: 100 }, leaveOut: { after: 0 } }), points)
    const allGood = () => points.every(({ address }) => qualityOf(address) === quality.Good)
    await until(allGood)
    const seen = new Map(points.map(({ address }) => [handleOf(address), new Set()]))
    table.listen((handles) => handles.forEach((handle) => seen.get(handle)?.add(table.values[handle])))
    pace.delay = 130
    await until(() => (unit(11)?.lateReplies ?? 0) >= 5)
    pace.delay = 0
    await until(allGood)
    expect([...seen.values()].map((values) => [...values])).toEqual([[100], [300]])
    expect(unit(11)!.failures).toBeGreaterThan(0)
  })

  it('cut off in the middle end in a new connection once the unit is well', async () => {
    const { port, fail } = await plant()
    const { quality: qualityOf } = open(settingsFor(port, { patience: { answer: 100 }, leaveOut: { after: 0 } }), powerOf(11))
    await until(() => qualityOf('11:holding/40') === quality.Good)
    fail(11, 'half-frame')
    await until(() => qualityOf('11:holding/40') !== quality.Good)
    fail(11, null)
    await until(() => qualityOf('11:holding/40') === quality.Good)
  })

  it('saying exception 4 make the values bad, with the device’s own words', async () => {
    const { port, fail } = await plant()
    const { quality: qualityOf, session, handleOf } = open(settingsFor(port), powerOf(11))
    await until(() => qualityOf('11:holding/40') === quality.Good)
    fail(11, 'exception')
    await until(() => qualityOf('11:holding/40') === quality.BadDeviceFailure)
    expect(session.origin(handleOf('11:holding/40'))!.fault!.what).toContain('SERVER DEVICE FAILURE')
  })
})
