import { fault, type Fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { CloudPlatformSettings, PlatformWay } from '#shared/outlets/cloudPlatform'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../../links/checkSteps'
import { resolveName } from '../../wire/resolveName'
import type { OutletContext } from '../driver'
import { PlatformFailure, type Platform } from './platform'
import { platformFor } from './platforms/registry'

const { waiting, sound, failed, notReached, open } = checkSteps({
  name: 'Name',
  port: 'Port',
  answer: 'Let in',
  clock: 'Clock',
})

/** So far clocks may differ before somebody should look at them. */
const mostApart = 60_000

/** From the name of a platform to its answer, by which it lets us in and tells its model, and to its clock. */
export async function* checkPlatform(
  { way, site }: CloudPlatformSettings,
  { security, wire }: Pick<OutletContext<never>, 'security' | 'wire'>,
): AsyncGenerator<CheckStep> {
  const { host, port, at } = firstPlace(way)
  const connectMs = way.patience.connect
  yield waiting('name')
  const name = await resolveName(host, port, connectMs)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  yield waiting('port')
  const began = performance.now()
  try {
    const socket = await wire.dial({ host: name.address, port, connectMs })
    socket.destroy()
    yield sound('port', `TCP ${port} open${at}`, performance.now() - began)
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    return yield* notReached('port')
  }
  const platform = platformFor(way, { site, security, wire })
  try {
    yield* letIn(platform, host)
  } finally {
    await platform.close().catch(() => {})
  }
}

async function* letIn(platform: Platform, place: string): AsyncGenerator<CheckStep> {
  yield waiting('answer')
  const began = performance.now()
  try {
    const { classes, equipment } = await platform.model(new AbortController().signal)
    const has = `${counted(classes.length, 'class', 'classes')} and ${counted(equipment.length, 'piece')} of equipment there`
    yield sound('answer', has, performance.now() - began)
  } catch (error) {
    const why = error instanceof PlatformFailure ? error.why : fault('ours.unexpected', { problem: (error as Error).message })
    yield failed('answer', why, performance.now() - began)
    return yield* notReached('answer')
  }
  const ahead = platform.clockAhead ?? null
  if (ahead === null) yield open('clock', 'off', 'it does not tell its time')
  else if (Math.abs(ahead) > mostApart) yield failed('clock', fault('cloud.clock', { place, ahead }), null)
  else yield sound('clock', ahead === 0 ? 'as ours' : `${duration(Math.abs(ahead))} ${ahead > 0 ? 'ahead' : 'behind'}`, null)
}

/** Behind a proxy, name and port are those of the proxy. */
const firstPlace = (way: PlatformWay): { host: string; port: number; at: string } => {
  if (way.kind === 'mqtt') return { host: way.host, port: way.port, at: '' }
  if (way.proxy.kind === 'http') return { host: way.proxy.host, port: way.proxy.port, at: ', at the proxy' }
  const { host, port } = placeOfBase(way.base)
  return { host, port, at: '' }
}
