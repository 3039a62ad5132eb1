import { createServer, type Server, type Socket } from 'node:net'
import mqtt from 'mqtt'
import { Aedes } from 'aedes'

/** Faults that a person or a test switches on at the quay. */
export const quayFaultText = {
  silence: 'the counters and lamp posts send nothing',
  flood: 'the counter at the north gate sends a thousand messages a second',
  malformed: 'every payload is cut off in the middle',
  'no rights': 'the broker lets nobody listen',
  twin: 'another client comes again and again with the client id of whoever listens',
  'old values': 'nothing new is sent, and the broker keeps values of an hour ago for whoever comes',
} as const
export type QuayFault = keyof typeof quayFaultText
export const isQuayFault = (name: unknown): name is QuayFault => typeof name === 'string' && Object.hasOwn(quayFaultText, name)

const gates = ['north', 'south', 'car_deck']
const lamps = [1, 2, 3, 4]
/** One payload in so many is cut off, as cheap senders do. */
const cutOffOnceIn = 60
const hourMs = 3_600_000
const twinEveryMs = 2000

/**
 * The quay: passenger counters and lamp posts that send JSON of three shapes, and the broker that they send to. The
 * counters count people on their way on board and ashore; lamp posts tell light and supply, and their state by itself.
 */
export class Quay {
  private broker!: Aedes
  private server!: Server
  private sockets = new Set<Socket>()
  private timers: NodeJS.Timeout[] = []
  private counts = new Map(gates.map((gate) => [gate, { aboard: 0, ashore: 0 }]))
  private sent = 0
  readonly faults = new Set<QuayFault>()

  async listen(port: number): Promise<number> {
    this.broker = await Aedes.createBroker({
      authorizeSubscribe: (_client, wanted, done) => done(null, this.faults.has('no rights') ? null : wanted),
    })
    this.server = createServer((socket) => {
      this.sockets.add(socket.on('close', () => this.sockets.delete(socket)))
      this.broker.handle(socket)
    })
    await new Promise<void>((resolve) => this.server.listen(port, '127.0.0.1', resolve))
    this.timers = [
      setInterval(() => this.countPeople(), 1000),
      setInterval(() => this.tellLamps(), 5000),
      setInterval(() => this.flood(), 100),
      setInterval(() => this.comeAsTwin(), twinEveryMs),
    ]
    this.tellLamps()
    return (this.server.address() as { port: number }).port
  }

  get clients() {
    return this.broker.connectedClients
  }

  get messages() {
    return this.sent
  }

  setFault(fault: QuayFault, on: boolean) {
    if (on) this.faults.add(fault)
    else this.faults.delete(fault)
    if (fault === 'old values') this.keepOld(on)
    // whoever listens already would go on doing so
    if (fault === 'no rights' || fault === 'old values') for (const socket of this.sockets) socket.destroy()
  }

  async close() {
    for (const timer of this.timers) clearInterval(timer)
    for (const socket of this.sockets) socket.destroy()
    await new Promise<void>((resolve) => this.server.close(() => resolve()))
    await new Promise<void>((resolve) => this.broker.close(() => resolve()))
  }

  private countPeople() {
    for (const gate of gates) {
      const counts = this.counts.get(gate)!
      counts.aboard += Math.floor(Math.random() * 4)
      counts.ashore += Math.floor(Math.random() * 3)
      this.send(`quay/${gate}/count`, { gate, people: { ...counts }, at: new Date().toISOString() })
    }
  }

  private tellLamps() {
    const hour = new Date().getHours() + new Date().getMinutes() / 60
    const isDark = hour < 7 || hour > 17
    for (const lamp of lamps) {
      const lux = Math.round((isDark ? 18 : 9000 * Math.sin(((hour - 6) / 12) * Math.PI)) * (0.97 + Math.random() * 0.06) * 10) / 10
      const supply = { volts: Math.round((229 + Math.random() * 3) * 10) / 10, watts: isDark ? 62 : 2 }
      this.send(`quay/lamp/${lamp}`, { lux, supply, ts: Math.floor(Date.now() / 1000) })
      this.send(`quay/lamp/${lamp}/state`, [isDark ? 'on' : 'off', 11_000 + lamp * 37], true)
    }
  }

  /** The broker ends the one that was there before (MQTT 3.1.1, 3.1.4). */
  private comeAsTwin() {
    if (!this.faults.has('twin')) return
    const { port } = this.server.address() as { port: number }
    for (const clientId of Object.keys((this.broker as unknown as { clients: object }).clients)) {
      const twin = mqtt.connect(`mqtt://127.0.0.1:${port}`, { clientId, protocolVersion: 4, reconnectPeriod: 0 })
      twin.on('error', () => {}).once('connect', () => twin.end())
    }
  }

  private keepOld(on: boolean) {
    const past = Date.now() - hourMs
    for (const gate of gates) {
      const payload = JSON.stringify({ gate, people: this.counts.get(gate), at: new Date(past).toISOString() })
      this.publish(`quay/${gate}/count`, on ? payload : '', true)
    }
    for (const lamp of lamps) {
      const payload = JSON.stringify({ lux: 5, supply: { volts: 228.4, watts: 62 }, ts: Math.floor(past / 1000) })
      this.publish(`quay/lamp/${lamp}`, on ? payload : '', true)
    }
  }

  private publish(topic: string, payload: string, retain: boolean) {
    this.broker.publish({ cmd: 'publish', topic, payload, qos: 0, retain, dup: false }, () => {})
  }

  private flood() {
    if (!this.faults.has('flood')) return
    for (let i = 0; i < 100; i++)
      this.send('quay/north/count', { gate: 'north', people: this.counts.get('north'), at: new Date().toISOString() })
  }

  private send(topic: string, payload: unknown, retain = false) {
    if (this.faults.has('silence') || this.faults.has('old values')) return
    const whole = JSON.stringify(payload)
    const isCut = this.faults.has('malformed') || (!retain && ++this.sent % cutOffOnceIn === 0)
    const text = isCut ? whole.slice(0, Math.ceil(whole.length / 2)) : whole
    this.publish(topic, text, retain)
  }
}
