import mqtt from 'mqtt'
import { afterEach, describe, expect, it } from 'vitest'
import { Quay } from '#standins/mqtt/quay'
import { closeAll, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** The quay of the demo, heard by a client that is not ours. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const listener = async (quay: Quay, port: number) => {
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { protocolVersion: 4, reconnectPeriod: 0 })
  closing.push(() => client.endAsync(true))
  const heard: { topic: string; text: string; retained: boolean }[] = []
  client.on('message', (topic, payload, { retain }) => heard.push({ topic, text: payload.toString(), retained: retain }))
  const granted = await client.subscribeAsync('quay/#').catch(() => [])
  return { client, heard, granted, quay }
}
const open = async () => {
  const quay = new Quay()
  const port = await quay.listen(0)
  closing.push(() => quay.close())
  return { quay, port }
}

describe('the quay', () => {
  it('sends JSON of three shapes, and keeps the state of its lamp posts for those who come later', async () => {
    const { quay, port } = await open()
    const { heard } = await listener(quay, port)
    await until(() => heard.some(({ topic }) => topic === 'quay/north/count'))
    const of = (topic: string) => JSON.parse(heard.find((one) => one.topic === topic)!.text) as unknown
    expect(of('quay/north/count')).toMatchObject({ gate: 'north', people: { aboard: expect.any(Number) as number } })
    expect(of('quay/lamp/1/state')).toEqual([expect.stringMatching(/on|off/), 11_037])
    expect(heard.find(({ topic }) => topic === 'quay/lamp/1/state')!.retained).toBe(true)
    await until(() => heard.some(({ topic }) => topic === 'quay/lamp/1'))
    expect(of('quay/lamp/1')).toMatchObject({ supply: { volts: expect.any(Number) as number } })
  })

  it('cuts payloads off, floods, falls silent, and lets nobody listen, when it is told to', async () => {
    const { quay, port } = await open()
    const { heard } = await listener(quay, port)
    quay.setFault('malformed', true)
    quay.setFault('flood', true)
    await until(() => heard.length > 200)
    expect(() => JSON.parse(heard.at(-1)!.text) as unknown).toThrow()
    quay.setFault('silence', true)
    const before = quay.messages
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect(quay.messages).toBe(before)
    quay.setFault('no rights', true)
    const refused = await listener(quay, port)
    expect(refused.granted.every(({ qos }) => qos >= 128)).toBe(true)
  })

  it('sends twins, of which each throws the other out, and keeps values of an hour ago', async () => {
    const { quay, port } = await open()
    const { client } = await listener(quay, port)
    quay.setFault('twin', true)
    await until(() => !client.connected)
    quay.setFault('twin', false)
    quay.setFault('old values', true)
    const { heard } = await listener(quay, port)
    await until(() => heard.some(({ topic }) => topic === 'quay/north/count'))
    const { text, retained } = heard.find(({ topic }) => topic === 'quay/north/count')!
    expect(retained).toBe(true)
    expect(Date.now() - Date.parse((JSON.parse(text) as { at: string }).at)).toBeGreaterThan(3_500_000)
    quay.setFault('old values', false)
    const fresh = await listener(quay, port)
    await until(() => fresh.heard.some(({ topic, retained: old }) => topic === 'quay/north/count' && !old))
  })
})
