import { afterEach, describe, expect, it } from 'vitest'
import { controllerSettings, openController, startController } from '../support/controller'
import { closeAll, type Closing } from '../support/engineOn'
import { foreignClient } from '../support/foreignController'

/** The stand-in of a controller as another maker’s client reads it, and ours beside: all three are of one mind. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const start = async () => {
  const { port, memory } = await startController(closing)
  const block = memory.add(10, 400)
  const client = await foreignClient(port)
  closing.unshift(() => client.close())
  return { port, memory, block, client }
}

describe('a client of another maker', () => {
  it('reads what we read: numbers, bits, flags, and more than one answer holds', async () => {
    const { port, memory, block, client } = await start()
    block.writeFloatBE(42.5, 4)
    block[8] = 0b1000
    block.writeInt16BE(-7, 40)
    block.writeInt32BE(-70_000, 44)
    memory.area('flag').writeUInt16BE(777, 2)
    for (let i = 0; i < 100; i++) block.writeInt16BE(i * 3, 100 + 2 * i)
    const theirs = await client.read(['DB10,REAL4', 'DB10,X8.3', 'DB10,INT40', 'DB10,DINT44', 'MW2', 'DB10,INT100.100'])
    const ours = openController(closing, controllerSettings(port), [
      { address: 'DB10.4', type: 'float32' },
      { address: 'DB10.8.3', type: 'bool' },
      { address: 'DB10.40', type: 'int16' },
      { address: 'DB10.44', type: 'int32' },
      { address: 'M2', type: 'uint16' },
      { address: 'DB10.100', type: 'int16[]', more: { options: { count: 100 } } },
    ])
    for (const { address } of ours.points) await ours.good(address)
    expect(Object.values(theirs)).toEqual(expect.arrayContaining(ours.points.map(({ address }) => ours.value(address))))
    expect(theirs['DB10,INT100.100']).toHaveLength(100)
  })

  it('reads what we write, and we what it writes', async () => {
    const { port, block, client } = await start()
    const ours = openController(closing, controllerSettings(port), [
      { address: 'DB10.40', type: 'int16' },
      { address: 'DB10.8.3', type: 'bool' },
      { address: 'DB10.8.4', type: 'bool' },
      { address: 'DB10.4', type: 'float32' },
    ])
    await ours.good('DB10.40')
    expect(await ours.write('DB10.40', -1234)).toEqual({ ok: true })
    expect(await ours.write('DB10.8.3', true)).toEqual({ ok: true })
    expect(await client.read(['DB10,INT40', 'DB10,X8.3', 'DB10,X8.4'])).toMatchObject({ 'DB10,INT40': -1234, 'DB10,X8.3': true, 'DB10,X8.4': false }) // prettier-ignore
    await client.write('DB10,X8.4', true)
    await client.write('DB10,REAL4', 12.25)
    await ours.holds('DB10.8.4', true)
    await ours.holds('DB10.4', 12.25)
    expect(block[8]).toBe(0b11000)
  })

  it('is refused a wrong slot, as we are', async () => {
    const { port } = await startController(closing)
    await expect(foreignClient(port, { slot: 5 })).rejects.toBeDefined()
  })
})
