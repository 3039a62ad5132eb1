import { fault, type Fault } from '#core/faults/catalogue'
import { dialectText, type SqlSettings } from '#core/sql/settings'
import { counted } from '#core/text/counted'
import type { CheckStep } from '#shared/status'
import { openedSecret } from '../../trust/openedSecret'
import { resolveName } from '../../wire/resolveName'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { tablesIn } from './catalogue'
import { Connections } from './database'
import { sqlFault } from './errors'
import { missingRights } from './rights'
import { greeting } from './rowStore'

const { waiting, sound, failed, notReached } = checkSteps({
  name: 'Name',
  port: 'Port',
  signIn: 'Signed in',
  tables: 'Tables',
  rights: 'Rights of bridges',
})

const protections = { off: 'not encrypted', encrypted: 'encrypted', verified: 'encrypted, their certificate verified' }

/** Name, port, signing in with its protection, and what our account may see. */
export async function* checkSql(
  settings: SqlSettings,
  signal: AbortSignal,
  { wire, security, uses }: Pick<CheckContext, 'wire' | 'security' | 'uses'>,
): AsyncGenerator<CheckStep> {
  const { host, port, patience, user, database, dialect, tls } = settings
  yield waiting('name')
  const name = await resolveName(host, port, patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return
  yield waiting('port')
  const began = performance.now()
  try {
    const socket = await wire.dial({ host: name.address, port, connectMs: patience.connect, signal })
    socket.destroy()
    yield sound('port', `TCP ${port} open`, performance.now() - began)
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    return yield* notReached('port')
  }
  const connections = new Connections({ ...settings, connections: 1 }, openedSecret(settings.password, security.seal), wire)
  let step: 'signIn' | 'tables' | 'rights' = 'signIn'
  let at = performance.now()
  try {
    yield waiting('signIn')
    const version = await greeting(connections, settings)
    yield sound(
      'signIn',
      `as ${user} to ${database}, ${dialectText[dialect]} ${version}, ${protections[tls.mode]}`,
      performance.now() - at,
      {
        farSide: { peer: `${dialectText[dialect]} ${version}` },
      },
    )
    ;[step, at] = ['tables', performance.now()]
    yield waiting('tables')
    const tables = await tablesIn(connections, dialect)
    const first = tables.slice(0, 5).map(({ schema, table }) => `${schema}.${table}`)
    const evidence =
      tables.length === 0
        ? 'none yet; a bridge can create one'
        : `${counted(tables.length, 'table')}: ${first.join(', ')}${tables.length > 5 ? ' …' : ''}`
    yield sound('tables', evidence, performance.now() - at)
    if (uses.length === 0) return
    ;[step, at] = ['rights', performance.now()]
    yield waiting('rights')
    const missing = await missingRights(connections, dialect, uses)
    const ms = performance.now() - at
    if (missing.length === 0) yield sound('rights', `to all ${counted(uses.length, 'table')} that bridges write into`, ms)
    else yield failed('rights', fault('sql.no-right', { user, problem: missing.join('; ') }), ms)
  } catch (error) {
    yield failed(step, sqlFault(error as Error, settings), performance.now() - at)
    yield* notReached(step)
  } finally {
    await connections.close()
  }
}
