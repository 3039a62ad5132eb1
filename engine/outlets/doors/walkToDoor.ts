import { isIP } from 'node:net'
import { fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { isOpenToOthers, type DoorPlace } from '#shared/outlets/doors'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { CheckStep } from '#shared/status'
import type { checkSteps } from '../../links/checkSteps'
import { ownFilter } from '../../diagnosis/probes'
import { isOwnAddress } from '../../wire/interfaces'
import { resolveName } from '../../wire/resolveName'
import { hostOf } from './place'

/** The steps that a check of any door has, whatever is between them. */
export const doorTitles = { open: 'Here', filter: 'Firewall here', name: 'Name', port: 'Port' } as const
export const outsideTitle = { others: 'From outside' } as const
type DoorStep = keyof typeof doorTitles | keyof typeof outsideTitle

type Steps<S extends string> = ReturnType<typeof checkSteps<S>>

const connectMs = 2000

/**
 * Comes to a door as a client does: by the address that clients are told. What lies between this machine and another one
 * cannot be measured from here; the last step tells who came from elsewhere.
 * @param inside goes on from the numeric address.
 */
export async function* walkToDoor<S extends string>(
  steps: Steps<S | DoorStep>,
  { door, status }: { door: DoorPlace; status: DoorStatus },
  inside: (numeric: string) => AsyncGenerator<CheckStep>,
): AsyncGenerator<CheckStep> {
  const { sound, failed, notReached } = steps
  if (status.flow !== 'flowing') {
    yield failed('open', status.fault ?? fault('outlet.door-closed', { port: door.port }), null)
    return yield* notReached('open')
  }
  yield sound('open', `listens on ${door.interface}, TCP ${door.port}`, null)
  yield await ownFirewall(steps, door)
  yield* named(steps, door, inside)
  yield fromOutside(steps, door, status)
}

/** What the rules of this machine do with somebody who comes from elsewhere: read, not guessed, where that is allowed. */
const ownFirewall = async <S extends string>({ open, sound, failed }: Steps<S | DoorStep>, door: DoorPlace): Promise<CheckStep> => {
  if (!isOpenToOthers(door)) return open('filter', 'off', 'this door is for this machine only')
  const { port } = door
  const everywhere = door.interface === '0.0.0.0' || door.interface === '::'
  const began = performance.now()
  const found = await ownFilter({ hook: 'input', carries: 'tcp', port, ...(everywhere ? {} : { to: door.interface }) })
  const ms = performance.now() - began
  if (!found)
    return open('filter', 'waiting', `its rules could not be read by us; as root: nft list ruleset (TCP ${port} has to be let in)`)
  if (found.outcome === 'lets through') return sound('filter', `read: no rule stops TCP ${port}`, ms)
  const { rule, place } = found
  if (found.outcome === 'depends') return open('filter', 'waiting', `it depends on who comes; ${place}: ${rule}`)
  return failed('filter', fault('outlet.firewall', { port, rule, place }, `${place}: ${rule}`), ms)
}

async function* named<S extends string>(
  { waiting, sound, failed, notReached }: Steps<S | DoorStep>,
  door: DoorPlace,
  inside: (numeric: string) => AsyncGenerator<CheckStep>,
): AsyncGenerator<CheckStep> {
  const host = hostOf(door)
  yield waiting('name')
  const name = await resolveName(host, door.port, connectMs)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name').slice(0, -1)
  }
  if (isIP(host) === 0 && !isOwnAddress(name.address)) {
    yield failed('name', fault('outlet.name-elsewhere', { host, address: name.address }, `${host} is ${name.address}`), name.ms)
    return yield* notReached('name').slice(0, -1)
  }
  yield sound('name', name.evidence, name.ms)
  yield* inside(name.address)
}

const fromOutside = <S extends string>(
  { open, sound }: Steps<S | DoorStep>,
  door: DoorPlace,
  { arrivals }: Pick<DoorStatus, 'arrivals'>,
): CheckStep => {
  if (!isOpenToOthers(door)) return open('others', 'off', 'this door is for this machine only')
  if (!arrivals.last)
    return open(
      'others',
      'waiting',
      `nobody from another machine came since the door opened. Whether something in between lets TCP ${door.port} in can only be tried from there`,
    )
  const ago = duration(Date.now() - arrivals.last.at)
  return sound('others', `${arrivals.last.from} came ${ago} ago; ${counted(arrivals.machines, 'machine')} in all`, null)
}
