import type { Duplex } from 'node:stream'
import { isFault, fault, type Fault } from '#core/faults/catalogue'
import { Backoff } from '#pacing/backoff'
import type { ModbusLine } from '#shared/outlets/modbusServer'
import type { LineStatus } from '#shared/outlets/modbusServerStatus'
import { openSerial } from '../../serial/openSerial'

const openWithinMs = 3000

interface LineWays {
  opened(line: ModbusLine, port: Duplex): void
  failed(why: Fault): void
}

interface OpenLine {
  key: string
  line: ModbusLine
  port: Duplex | null
  fault: Fault | null
  timer: NodeJS.Timeout | null
  backoff: Backoff
  isGone: boolean
}

/** The serial lines on which an outlet answers. Each opens, fails and is tried again by itself. */
export class LineSet {
  private lines: OpenLine[] = []

  constructor(private ways: LineWays) {}

  /** Opens what is new, closes what is gone, and leaves the rest alone. */
  apply(wanted: readonly ModbusLine[]) {
    const keys = wanted.map((line) => JSON.stringify(line))
    for (const line of this.lines) if (!keys.includes(line.key)) this.shut(line)
    const known = new Map(this.lines.map((line) => [line.key, line]))
    this.lines = wanted.map((line, i) => known.get(keys[i]!) ?? this.add(line, keys[i]!))
  }

  status(): LineStatus[] {
    return this.lines.map(({ line, port, fault: why }) => ({
      device: line.device,
      flow: !line.on ? 'off' : port ? 'flowing' : why ? 'broken' : 'late',
      fault: why,
    }))
  }

  close() {
    for (const line of this.lines) this.shut(line)
    this.lines = []
  }

  private add(line: ModbusLine, key: string): OpenLine {
    const made: OpenLine = { key, line, port: null, fault: null, timer: null, backoff: new Backoff(1000, 30_000), isGone: false }
    if (line.on) void this.open(made)
    return made
  }

  private async open(made: OpenLine) {
    try {
      const port = await openSerial(made.line, openWithinMs)
      if (made.isGone) return void port.destroy()
      made.port = port
      made.fault = null
      made.backoff.reset()
      port.once('close', () => this.lost(made, fault('serial.gone', { device: made.line.device })))
      this.ways.opened(made.line, port)
    } catch (error) {
      this.lost(made, isFault(error) ? error : fault('ours.unexpected', { problem: String(error) }))
    }
  }

  private lost(made: OpenLine, why: Fault) {
    const isNews = made.fault === null
    made.port = null
    made.fault = why
    if (made.isGone) return
    if (isNews) this.ways.failed(why)
    made.timer = setTimeout(() => void this.open(made), made.backoff.next())
  }

  private shut(line: OpenLine) {
    line.isGone = true
    if (line.timer) clearTimeout(line.timer)
    line.port?.destroy()
  }
}
