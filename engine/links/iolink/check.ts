import { fault, type Fault } from '#core/faults/catalogue'
import { httpOf } from '#core/iolink/keeping'
import type { DeviceIdentification } from '#core/iolink/json'
import type { IoLinkSettings } from '#core/iolink/settings'
import { mayHaveDevice, stateWords } from '#core/iolink/states'
import { counted } from '#core/text/counted'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { wayThere } from '../http/check'
import { deviceText, expectedText, isExpected } from './identity'
import { Master, type PortFound } from './master'

const steps = checkSteps({
  name: 'Name',
  port: 'Port',
  tls: 'Protection',
  master: 'Interface',
  ports: 'Ports',
  device: 'Devices',
  value: 'First value',
})
const { waiting, sound, failed, notReached, open } = steps

/** Name, port, protection, whether the interface of masters is there, its ports, who is plugged in, and process data of the first. */
export async function* checkIoLink(
  settings: IoLinkSettings,
  signal: AbortSignal,
  around: Pick<CheckContext, 'security' | 'wire'>,
): AsyncGenerator<CheckStep> {
  const way = yield* wayThere(steps, httpOf(settings), signal, around)
  if (!way) return
  await way.close()
  if (signal.aborted) return
  const master = new Master(settings, around.security, around.wire)
  try {
    yield* askMaster(master, settings, signal)
  } finally {
    master.close()
  }
}

async function* askMaster(master: Master, settings: IoLinkSettings, signal: AbortSignal): AsyncGenerator<CheckStep> {
  yield waiting('master')
  const who = await master.identification()
  if (!who.ok) {
    yield failed('master', who.why, null)
    return yield* notReached('master')
  }
  const { vendorName, productName, serialNumber, firmwareRevision } = who.value
  const told = [productName, vendorName && `of ${vendorName}`, serialNumber && `serial number ${serialNumber}`, firmwareRevision && `firmware ${firmwareRevision}`] // prettier-ignore
  const peer = told.filter(Boolean).join(', ')
  yield sound('master', peer, who.ms, { farSide: { peer } })
  if (signal.aborted) return
  yield waiting('ports')
  const ports = await master.ports()
  if (!ports.ok) {
    yield failed('ports', ports.why, null)
    return yield* notReached('ports')
  }
  yield sound('ports', ports.value.map(({ port, state }) => `${port} ${stateWords(state)}`).join('; ') || 'it has none', ports.ms)
  if (!signal.aborted) yield* askDevices(master, settings, ports.value, signal)
}

async function* askDevices(master: Master, settings: IoLinkSettings, ports: PortFound[], signal: AbortSignal): AsyncGenerator<CheckStep> {
  yield waiting('device')
  const began = performance.now()
  const { found, wrong, first } = await identifyAll(master, settings, ports, signal)
  if (signal.aborted) return
  const why = wrong ?? missing(settings, ports)
  const ms = performance.now() - began
  if (why) yield failed('device', why, ms)
  else yield found.length > 0 ? sound('device', found.join('; '), ms) : open('device', 'off', 'nothing is plugged in')
  if (!first) return yield* notReached('device')
  yield waiting('value')
  yield await firstValue(master, first)
}

/** Who is plugged in, and the first of whom something is to be said. */
const identifyAll = async (master: Master, settings: IoLinkSettings, ports: PortFound[], signal: AbortSignal) => {
  const found: string[] = []
  let wrong: Fault | null = null
  let first: PortFound | null = null
  for (const port of ports.filter(({ state }) => mayHaveDevice(state))) {
    const asked = await master.device(port.alias)
    if (signal.aborted) break
    if (asked.ok) {
      first ??= port
      found.push(`${port.port} ${deviceText(asked.value)}`)
      wrong ??= otherThan(settings, port.port, asked.value)
    } else wrong ??= asked.why
  }
  return { found, wrong, first }
}

const missing = ({ ports: expected }: IoLinkSettings, ports: PortFound[]): Fault | null => {
  const lacking = expected.find(({ port }) => !ports.some((one) => one.port === port && mayHaveDevice(one.state)))
  if (!lacking) return null
  return fault('iolink.empty', { port: lacking.port, words: `${expectedText(lacking)} belongs there` })
}

const otherThan = ({ ports }: IoLinkSettings, port: number, found: DeviceIdentification): Fault | null => {
  const expected = ports.find((one) => one.port === port)
  return expected && !isExpected(expected, found)
    ? fault('iolink.wrong', { port, wanted: expectedText(expected), found: deviceText(found) })
    : null
}

const firstValue = async (master: Master, { port, alias }: PortFound): Promise<CheckStep> => {
  const data = await master.processData(alias)
  if (!data.ok) return failed('value', data.why, null)
  const image = data.value.getData?.ioLink
  if (!image) return sound('value', `port ${port}: it sends none`, data.ms)
  if (!image.valid) return failed('value', fault('iolink.invalid', { port, side: 'in' }), data.ms)
  const bytes = image.value.map((byte) => byte.toString(16).padStart(2, '0')).join(' ')
  return sound('value', `port ${port}: ${counted(image.value.length, 'byte')}, ${bytes}`, data.ms)
}
