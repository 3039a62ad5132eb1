import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { faultNames, faultText, isFaultName } from '../modbus/faults'
import type { Meter } from '../modbus/meter'
import type { ArmServer } from '../opcua/armServer'
import type { Port } from '../port'
import type { Quay } from '../mqtt/quay'
import { armRoute, describeArms } from './arms'
import { converterRoute, describeConverter } from './controller'
import { describeQuay, quayRoute } from './quay'
import { descriptionFiles } from '../iolink/descriptions/devices'
import { describeSensors, sensorsRoute } from './sensors'
import { describeSubstation, substationRoute } from './substation'
import { describeTariff, tariffRoute } from './tariff'
import type { TariffService } from '../http/tariffService'

const mostBody = 64 * 1024

export interface StandIns {
  port: Port
  quay: Quay
  tariff: TariffService
  /** Those that have started. */
  arms: ArmServer[]
  /** Whether all have. */
  ready: boolean
}

/** The stand-ins' own page and control API, for people and tests. */
export const openControl = (standIns: StandIns, page: string): Server => {
  const text = readFileSync(page, 'utf8')
  return createServer((request, response) => {
    route(standIns, text, request, response).catch((error: unknown) => answer(response, 400, { problem: (error as Error).message }))
  })
}

const route = async (standIns: StandIns, page: string, request: IncomingMessage, response: ServerResponse) => {
  const { pathname } = new URL(request.url ?? '/', 'http://stand-ins')
  const { port, arms, quay, tariff } = standIns
  if (request.method === 'GET') return look(standIns, page, pathname, response)
  const done =
    (await armRoute(arms, pathname, () => readJson(request))) ??
    (await quayRoute(quay, pathname, () => readJson(request))) ??
    (await converterRoute(port.converter, pathname, () => readJson(request))) ??
    (await substationRoute(port.substation, pathname, () => readJson(request))) ??
    (await sensorsRoute(port.sensors, pathname, () => readJson(request))) ??
    (await tariffRoute(tariff, pathname, () => readJson(request))) ??
    (await portRoute(port, pathname, () => readJson(request)))
  answer(response, done.status, done.body)
}

const look = ({ port, arms, quay, tariff, ready }: StandIns, page: string, path: string, response: ServerResponse) => {
  if (path === '/') return html(response, page)
  if (path === '/api/meters') return answer(response, 200, describe(port))
  if (path === '/api/quay') return answer(response, 200, describeQuay(quay))
  if (path === '/api/converter') return answer(response, 200, describeConverter(port.converter))
  if (path === '/api/substation') return answer(response, 200, describeSubstation(port.substation))
  if (path === '/api/sensors') return answer(response, 200, describeSensors(port.sensors))
  if (path === '/api/sensors/descriptions') return answer(response, 200, Object.values(descriptionFiles))
  if (path === '/api/tariff') return answer(response, 200, describeTariff(tariff))
  if (path === '/api/arms') return answer(response, 200, { ready, ...describeArms(arms) })
  answer(response, 404, { problem: `nothing at ${path}` })
}

const portRoute = async (port: Port, path: string, readBody: () => Promise<Record<string, unknown>>) => {
  if (path === '/api/gateway/drop') {
    port.gateway.dropAll()
    port.line.dropAll()
    return { status: 200, body: { dropped: true } }
  }
  const match = /^\/api\/meters\/(\d+)\/(fault|value)$/.exec(path)
  const meter = match && port.gateway.meters.find((candidate) => candidate.unit === Number(match[1]))
  if (!meter) return { status: 404, body: { problem: `nothing at ${path}` } }
  const body = await readBody()
  const problem = match[2] === 'fault' ? setFault(meter, body) : setValue(meter, body)
  return problem ? { status: 400, body: { problem } } : { status: 200, body: describeMeter(meter) }
}

const setFault = (meter: Meter, body: Record<string, unknown>): string | null => {
  const { fault = null, delay, code } = body
  if (fault !== null && !isFaultName(fault)) return `fault is one of ${faultNames.join(', ')}, or null`
  meter.fault.fault = fault
  if (typeof delay === 'number') meter.fault.delay = delay
  if (typeof code === 'number') meter.fault.code = code
  return null
}

const setValue = (meter: Meter, body: Record<string, unknown>): string | null => {
  const { channel, value } = body
  if (typeof channel !== 'string') return 'channel is missing'
  if (value === null) return meter.pinned.delete(channel) ? null : `${channel} is not pinned`
  const type = meter.channels.find((candidate) => candidate.name === channel)?.type ?? 'bool'
  const wide = type === 'int64' || type === 'uint64'
  const given = wide
    ? BigInt(value as string | number)
    : type === 'string'
      ? String(value)
      : type === 'bool'
        ? Boolean(value)
        : Number(value)
  return meter.set(channel, given) ? null : `there is no channel ${channel}`
}

const describe = (port: Port) => ({
  connections: port.gateway.connections,
  faults: faultText,
  meters: port.gateway.meters.map(describeMeter),
})

const describeMeter = (meter: Meter) => ({
  unit: meter.unit,
  berth: meter.berthNumber,
  requests: meter.requests,
  fault: meter.fault,
  lastWrite: meter.lastWrite,
  channels: meter
    .snapshot()
    .map((channel) => ({ ...channel, value: typeof channel.value === 'bigint' ? channel.value.toString() : channel.value })),
})

const readJson = async (request: IncomingMessage): Promise<Record<string, unknown>> => {
  let text = ''
  for await (const chunk of request) {
    text += String(chunk)
    if (text.length > mostBody) throw new Error('the body is too long')
  }
  return JSON.parse(text || '{}') as Record<string, unknown>
}

const answer = (response: ServerResponse, status: number, body: unknown) => {
  response.writeHead(status, { 'content-type': 'application/json', 'cache-control': 'no-store' })
  response.end(JSON.stringify(body))
}

const html = (response: ServerResponse, page: string) => {
  response.writeHead(200, {
    'content-type': 'text/html; charset=utf-8',
    'content-security-policy': "default-src 'self'; style-src 'unsafe-inline'; script-src 'unsafe-inline'",
  })
  response.end(page)
}
