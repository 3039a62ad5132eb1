import { collides, doorsOf, type DoorPlace } from '#shared/outlets/doors'
import type { Outlet } from '#shared/outlets/outlet'
import type { FieldMessage } from '#shared/faults'

/** Two outlets on one port cannot both open; better said before than after. */
export const portsTaken = (doors: readonly DoorPlace[], others: readonly Outlet[]): FieldMessage[] =>
  doors.flatMap((door, i) => {
    const other = others.find(({ settings }) => doorsOf(settings).some((taken) => collides(taken, door)))
    return other ? [{ path: `settings.doors.${i}.port`, message: `Port ${door.port} belongs to the outlet “${other.name}”.` }] : []
  })
