import { createServer as createHttp } from 'node:http'
import { createServer, Socket, type AddressInfo } from 'node:net'
import jsmodbus from 'jsmodbus'
import { connect as connectMqtt } from 'mqtt'
import { AttributeIds, MessageSecurityMode, OPCUAClient, SecurityPolicy } from 'node-opcua'
import { linkContract } from '#shared/links/link'
import { startArm } from '../support/arm'
import { startBroker } from '../support/mqttBroker'
import type { Security } from '#engine/trust/security'
import { testSecurity } from '../support/security'
import { walkPath } from '../support/pathWalk'
import { milliseconds, times, type Row, type Section } from './report'

const runs = 9
const host = '127.0.0.1'
const median = (values: number[]) => [...values].sort((a, b) => a - b)[values.length >> 1]!

/** A check that finds everything sound, and what a script of the same library does to know that it could read. */
interface Compared {
  what: string
  kind: string
  settings: object
  plain: () => Promise<void>
  stop: () => Promise<unknown>
}

const meter = async (): Promise<Compared> => {
  const server = createServer()
  new jsmodbus.server.TCP(server, { holding: Buffer.alloc(200) })
  await new Promise<void>((resolve) => server.listen(0, host, resolve))
  const { port } = server.address() as AddressInfo
  const plain = async () => {
    const socket = new Socket()
    const client = new jsmodbus.client.TCP(socket, 1)
    await new Promise<void>((resolve) => socket.connect({ host, port }, resolve))
    await client.readHoldingRegisters(0, 1)
    socket.destroy()
  }
  return { what: 'Modbus TCP', kind: 'modbus-tcp', settings: { host, port, unit: 1 }, plain, stop: () => Promise.resolve(server.close()) }
}

const arm = async (): Promise<Compared> => {
  const { port, stop } = await startArm()
  const address = `opc.tcp://${host}:${port}/arm`
  const plain = async () => {
    const client = OPCUAClient.create({
      ...{ endpointMustExist: false, securityMode: MessageSecurityMode.None, securityPolicy: SecurityPolicy.None },
      connectionStrategy: { maxRetry: 0 },
    })
    await client.connect(address)
    const session = await client.createSession()
    await session.read([{ nodeId: 'i=2256', attributeId: AttributeIds.Value }])
    await session.close()
    await client.disconnect()
  }
  return { what: 'OPC UA', kind: 'opcua', settings: { address }, plain, stop }
}

const broker = async (): Promise<Compared> => {
  const { port, stop } = await startBroker()
  const plain = async () => {
    const client = connectMqtt({ host, port, reconnectPeriod: 0 })
    await new Promise<void>((resolve) => client.once('connect', () => resolve()))
    const back = new Promise<void>((resolve) => client.once('message', () => resolve()))
    await client.subscribeAsync('bench/back')
    await client.publishAsync('bench/back', 'here')
    await back
    await client.endAsync(true)
  }
  return { what: 'MQTT', kind: 'mqtt', settings: { host, port, version: '3.1.1' }, plain, stop }
}

const api = async (): Promise<Compared> => {
  const server = createHttp((_, reply) => reply.setHeader('content-type', 'application/json').end('{"price":11.25}'))
  await new Promise<void>((resolve) => server.listen(0, host, resolve))
  const base = `http://${host}:${(server.address() as AddressInfo).port}`
  const plain = async () => void (await (await fetch(`${base}/price`)).json())
  const operations = [{ name: 'price', path: '/price', example: '{"price":11.25}' }]
  return { what: 'HTTP', kind: 'http', settings: { base, operations }, plain, stop: () => Promise.resolve(server.close()) }
}

const taken = async (work: () => Promise<unknown>) => {
  const began = performance.now()
  await work()
  return performance.now() - began
}

const measured = async ({ what, kind, settings, plain, stop }: Compared, security: Security) => {
  const draft = linkContract.parse({ name: what, kind, settings })
  const check = async () => {
    const { verdict } = await walkPath(draft, security)
    if (verdict) throw new Error(`${what} is not sound: ${verdict.causes[0]?.title}`)
  }
  const [ours, bare]: [number[], number[]] = [[], []]
  // in turns, after one that loads what is loaded late
  for (let i = 0; i <= runs; i++) {
    const [one, other] = [await taken(check), await taken(plain)]
    if (i > 0) ours.push(one)
    if (i > 0) bare.push(other)
  }
  await stop()
  const [mine, theirs] = [median(ours), median(bare)]
  return { what, ours: milliseconds(mine), plain: milliseconds(theirs), ratio: times(theirs / mine), aim: 'at most 200 ms more' }
}

export const pathCase = async (): Promise<Section> => {
  const [rows, security] = [[] as Row[], await testSecurity()]
  for (const make of [meter, arm, broker, api]) rows.push(await measured(await make(), security))
  return {
    title: 'A path that is sound, checked to its end',
    how: `Over connections of its own, from the name to the first value; the middle of ${runs}. Plain: a script connects by the same standard, reads one value and leaves.`,
    rows,
  }
}
