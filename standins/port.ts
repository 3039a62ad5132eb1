import { SubstationServices } from './bacnet/substation'
import { CableSensors } from './iolink/cableSensors'
import { ConverterController } from './isotcp/converterProgram'
import { Gateway } from './modbus/gateway'
import { Meter } from './modbus/meter'
import { Berth } from './physics/berth'
import { Converter } from './physics/converter'
import { CableArm } from './physics/cableArm'

const stepMs = 250

/** The simulated part of Harrow Sound Ferry Port: three berths, their meters, the gateway before them. */
export class Port {
  readonly gateway: Gateway
  /** The line of the meters itself, behind a converter that passes its bytes on. */
  readonly line: Gateway
  readonly arms: CableArm[]
  readonly converter = new ConverterController(new Converter())
  readonly substation: SubstationServices
  readonly sensors: CableSensors
  private timer: NodeJS.Timeout | null = null
  private lastStep = Date.now()

  constructor() {
    const berths = [
      new Berth({ voltage: 11_000, load: 1480, powerFactor: 0.978, ramp: 90, swing: 0.04, swingPeriod: 97 }, 48_211_400, true),
      new Berth({ voltage: 11_000, load: 910, powerFactor: 0.962, ramp: 60, swing: 0.06, swingPeriod: 71 }, 20_904_770, true),
      new Berth({ voltage: 6_600, load: 640, powerFactor: 0.951, ramp: 45, swing: 0.05, swingPeriod: 53 }, 9_310_020, true),
    ] as const
    const meters = [
      new Meter(11, 1, berths[0], () => 4 + Math.random() * 5),
      new Meter(12, 2, berths[1], () => 4 + Math.random() * 5),
      new Meter(13, 3, berths[2], slowAndSometimesSilent),
    ]
    meters[2]!.unknownFunctions.add(22)
    this.gateway = new Gateway(meters)
    this.line = new Gateway(meters, 4, 'rtu')
    const totalKw = () => berths.reduce((total, berth) => total + berth.state.activePower, 0)
    this.substation = new SubstationServices(totalKw)
    this.arms = berths.map((berth, index) => new CableArm(index + 1, berth))
    this.sensors = new CableSensors(this.arms[0]!)
  }

  start() {
    this.timer = setInterval(() => this.step(), stepMs)
  }

  stop() {
    if (this.timer) clearInterval(this.timer)
  }

  private step() {
    const now = Date.now()
    const seconds = Math.min(5, (now - this.lastStep) / 1000)
    this.lastStep = now
    for (const meter of this.gateway.meters) meter.berth.advance(seconds)
    for (const arm of this.arms) arm.advance(seconds)
    this.converter.step(seconds)
    this.substation.step(seconds)
    this.sensors.step()
  }
}

const spellEveryMs = 240_000
const spellLastsMs = 20_000

/** Unit 13 hangs on a long, noisy line: slow, and for a spell every few minutes it does not answer at all. */
const slowAndSometimesSilent = () => (Date.now() % spellEveryMs < spellLastsMs ? Infinity : 380 + Math.random() * 240)
