import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Sensor } from './sensor'

const mostBody = 64 * 1024
const mostEvents = 200

export const masterFaultText = {
  silent: 'does not answer',
  slow: 'answers after 900 ms',
  invalid: 'the sensor at port 1 says that its values are none',
  text: 'answers with text that is no JSON',
  swamped: 'says that it is busy',
  eventless: 'tells no events',
  deaf: 'says who is at port 1, and does not reach it for values',
} as const
export type MasterFault = keyof typeof masterFaultText
export const isMasterFault = (name: unknown): name is MasterFault => typeof name === 'string' && name in masterFaultText

interface Said {
  status: number
  body: unknown
}

const no = (status: number, code: number, message: string): Said => ({ status, body: { code, message } })

/** A master of four ports with the standard’s interface over HTTP. */
export class SensorMaster {
  readonly ports: (Sensor | null)[] = [null, null, null, null]
  readonly faults = new Set<MasterFault>()
  requests = 0
  private reported: object[] = []
  private server: Server

  constructor(readonly options: { user?: string; password?: string } = {}) {
    this.server = createServer((request, response) => void this.answer(request, response))
  }

  async listen(port: number): Promise<number> {
    await new Promise<void>((resolve, fail) => this.server.once('error', fail).listen(port, '127.0.0.1', resolve))
    return (this.server.address() as AddressInfo).port
  }

  /** @param port from 1 @param sensor null: the plug is pulled */
  plug(port: number, sensor: Sensor | null) {
    this.ports[port - 1] = sensor
  }

  /** What the device at a port reports. @param mode as the standard has it: APPEARS, DISAPPEARS or SINGLESHOT */
  report(port: number, code: number, mode: 'APPEARS' | 'DISAPPEARS' | 'SINGLESHOT', severity: 'NOTICE' | 'WARNING' | 'ERROR' = 'WARNING') {
    const origin = { masterNumber: 1, portNumber: port, deviceAlias: `master1port${port}` }
    this.reported.unshift({ time: new Date().toISOString(), severity, origin, message: { code, mode, text: `Device event ${code}` } })
    this.reported.length = Math.min(this.reported.length, mostEvents)
  }

  close() {
    this.server.closeAllConnections()
    return new Promise<void>((resolve) => this.server.close(() => resolve()))
  }

  private async answer(request: IncomingMessage, response: ServerResponse) {
    this.requests++
    if (this.faults.has('silent')) return
    if (this.faults.has('slow')) await new Promise((resolve) => setTimeout(resolve, 900))
    const said = await this.route(request).catch((error: unknown) => no(400, 201, (error as Error).message))
    response.writeHead(said.status, { 'content-type': 'application/json' })
    response.end(this.faults.has('text') ? 'Welcome' : said.body === null ? '' : JSON.stringify(said.body))
  }

  private async route(request: IncomingMessage): Promise<Said> {
    const { pathname } = new URL(request.url ?? '/', 'http://master')
    if (!this.isKnown(request)) return no(401, 104, 'Access denied')
    const path = pathname.replace(/^\/iolink\/v1/, '')
    if (path === pathname) return no(404, 301, 'Resource not found')
    if (this.faults.has('swamped')) return no(503, 102, 'Busy')
    if (path === '/gateway/events' && !this.faults.has('eventless')) return { status: 200, body: this.reported }
    const ofDevice = /^\/devices\/([^/]+)(\/.*)$/.exec(path)
    if (ofDevice) return this.ofDevice(ofDevice[1]!, ofDevice[2]!, request)
    return this.ofMaster(path)
  }

  private isKnown({ headers }: IncomingMessage) {
    const { user, password } = this.options
    return user === undefined || headers.authorization === `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`
  }

  private ofMaster(path: string): Said {
    if (path === '/masters') return { status: 200, body: [{ masterNumber: 1, serialNumber: 'HM-4-0017', locationTag: '' }] }
    if (path === '/masters/1/identification')
      return { status: 200, body: { vendorName: 'Harrow Sensor Works', vendorId: 2641, productName: 'HM-4', serialNumber: 'HM-4-0017', firmwareRevision: '2.1' } } // prettier-ignore
    if (path === '/masters/1/ports')
      return {
        status: 200,
        body: this.ports.map((sensor, i) => ({ portNumber: i + 1, statusInfo: stateOf(sensor), deviceAlias: `master1port${i + 1}` })),
      }
    return /^\/masters\/(?!1\b)/.test(path) ? no(404, 306, 'masterNumber not found') : no(404, 301, 'Resource not found')
  }

  private async ofDevice(alias: string, path: string, request: IncomingMessage): Promise<Said> {
    const port = /^master1port([1-4])$/.exec(alias)
    if (!port) return no(404, 308, 'deviceAlias not found')
    const sensor = this.ports[Number(port[1]) - 1]
    if (!sensor) return no(500, 311, 'IO-Link Device is not accessible')
    if (path === '/identification') return { status: 200, body: identificationOf(sensor) }
    if (path === '/processdata/value' && this.faults.has('deaf') && sensor === this.ports[0])
      return no(500, 311, 'IO-Link Device is not accessible')
    if (path === '/processdata/value') return this.processData(sensor, request)
    const parameter = /^\/parameters\/(\d+)(?:\/subindices\/(\d+))?\/value$/.exec(path)
    if (parameter) return this.parameter(sensor, Number(parameter[1]), Number(parameter[2] ?? 0), request)
    return no(404, 301, 'Resource not found')
  }

  private async processData(sensor: Sensor, request: IncomingMessage): Promise<Said> {
    if (request.method !== 'GET') return this.setProcessData(sensor, await bodyOf(request))
    const isInvalid = !sensor.isValid || (this.faults.has('invalid') && sensor === this.ports[0])
    const getData = { ioLink: { valid: !isInvalid, value: [...sensor.image] } }
    const setData = { ioLink: { valid: true, value: [...sensor.output] } }
    return { status: 200, body: { getData, ...(sensor.output.length > 0 ? { setData } : {}) } }
  }

  private setProcessData(sensor: Sensor, text: string): Said {
    const { ioLink } = JSON.parse(text) as { ioLink: { valid: boolean; value: number[] } }
    if (sensor.output.length === 0) return no(400, 314, 'IO-Link Device refused the process data')
    if (ioLink.value.length !== sensor.output.length) return no(400, 202, 'Process data length does not fit')
    sensor.output = Uint8Array.from(ioLink.value)
    return { status: 204, body: null }
  }

  private async parameter(sensor: Sensor, index: number, subindex: number, request: IncomingMessage): Promise<Said> {
    const known = subindex === 0 ? sensor.parameters.get(index) : sensor.part(index, subindex)
    if (!known) return sensor.parameters.has(index) ? no(404, 310, 'Subindex not found') : no(404, 309, 'Parameter index not found')
    if (request.method === 'GET') return { status: 200, body: { value: [...known] } }
    const access = sensor.description.parameters.find((one) => one.index === index)?.access
    if (access === 'ro') return no(400, 314, 'Access denied by the IO-Link Device')
    const { value } = JSON.parse(await bodyOf(request)) as { value: number[] }
    if (value.length !== known.length && index !== 24) return no(400, 202, 'Parameter length overrun')
    if (subindex > 0) sensor.setPart(index, subindex, Uint8Array.from(value))
    else sensor.parameters.set(index, Uint8Array.from(value))
    return { status: 204, body: null }
  }
}

const stateOf = (sensor: Sensor | null) => (sensor ? 'DEVICE_ONLINE' : 'COMMUNICATION_LOST')

const identificationOf = ({ description, serialNumber }: Sensor) => ({
  ...{ vendorId: description.vendorId, deviceId: description.deviceId, iolinkRevision: '1.1', vendorName: description.vendorName },
  ...{
    productName: description.variants[0]?.name ?? description.named,
    productId: description.variants[0]?.productId ?? '',
    serialNumber,
  },
})

const bodyOf = async (request: IncomingMessage) => {
  let text = ''
  for await (const chunk of request) {
    text += String(chunk)
    if (text.length > mostBody) throw new Error('the body is too long')
  }
  return text
}
