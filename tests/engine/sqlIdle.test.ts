import { readdirSync, readFileSync, readlinkSync } from 'node:fs'
import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { sqlSettings } from '#core/sql/settings'
import { Connections } from '#engine/links/sql/database'
import { Wire } from '#engine/wire/wire'
import { otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { until } from '../support/until'

/** A connection to a database over which nothing is asked: something passes all the same, before a firewall forgets it. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** The sockets of this process alone (proc(5), /proc/pid/fd): other tests speak to the same server. */
const ownSockets = () =>
  new Set(
    readdirSync('/proc/self/fd').flatMap((fd) => {
      try {
        return /^socket:\[(\d+)\]$/.exec(readlinkSync(`/proc/self/fd/${fd}`))?.[1] ?? []
      } catch {
        return [] // closed in between
      }
    }),
  )

/** The timers of own connections to a port (proc(5), /proc/net/tcp): which one runs, and for how long yet. */
const timersTo = (port: number) => {
  const own = ownSockets()
  const hex = port.toString(16).toUpperCase().padStart(4, '0')
  return readFileSync('/proc/net/tcp', 'utf8')
    .split('\n')
    .map((line) => line.trim().split(/\s+/))
    .filter(([, , remote, state]) => remote === `0100007F:${hex}` && state === established)
    .filter((fields) => own.has(fields[9]!))
    .map(([, , , , , timer]) => ({ which: timer!.slice(0, 2), ticks: parseInt(timer!.slice(3), 16) }))
}
const established = '01'
/** The timer that asks a far side of which nothing was heard whether it is there (RFC 9293, 3.8.4). */
const keepAlive = '02'
const ticksInSecond = 100

const databases = {
  PostgreSQL: async () => (await otherDatabase(closing)).settings,
  MariaDB: async () => {
    const server = await startMariadb()
    closing.push(() => server.stop())
    return server.settings
  },
}

it.each(Object.keys(databases) as (keyof typeof databases)[])(
  'to %s asks within ten seconds whether the far side is there',
  async (kind) => {
    const settings = sqlSettings.parse({ ...(await databases[kind]()), connections: 1 })
    const before = timersTo(settings.port).filter(({ which }) => which === keepAlive).length
    const connections = new Connections(settings, (settings.password as { plain: string }).plain, new Wire())
    closing.push(() => connections.close())
    await connections.rows(sql`select 1`)
    const timers = await until(
      () => timersTo(settings.port).filter(({ which, ticks }) => which === keepAlive && ticks <= 10 * ticksInSecond),
      (all) => all.length > before,
    )
    expect(timers.length).toBe(before + 1)
  },
)
