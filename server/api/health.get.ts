import { setResponseStatus } from 'h3'
import { sql } from 'kysely'
import type { EngineStatus } from '#shared/status'
import { showHealth } from '#shared/api/site'
import { steadyNow } from '#pacing/clock'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

const mostMs = 1500
/** Anybody may ask, as often as he likes: the engine is asked no more often than this. */
const freshMs = 2000

let known: { status: EngineStatus | null; at: number } = { status: null, at: -Infinity }

export default defineRoute(showHealth, async ({ event }) => {
  const [status, answers] = await Promise.all([engineStatus(), databaseAnswers()])
  const engine = engineClient.alive
  const isPressed = !answers || (status !== null && (!status.databaseConnected || status.heldDatabase !== null || status.upkeep.now > 0))
  const overall: 'pass' | 'warn' | 'fail' = !engine ? 'fail' : isPressed ? 'warn' : 'pass'
  if (overall === 'fail') setResponseStatus(event, 503)
  return { status: overall, web: true, engine, database: answers, leads: status?.lead?.name ?? null }
})

const engineStatus = async (): Promise<EngineStatus | null> => {
  if (steadyNow() - known.at < freshMs) return known.status
  known = { status: known.status, at: steadyNow() }
  known.status = engineClient.alive ? await engineClient.call((engine) => engine.status(), mostMs).catch(() => null) : null
  return known.status
}

const databaseAnswers = () => {
  const late = new Promise<boolean>((resolve) => setTimeout(() => resolve(false), mostMs).unref())
  const answers = sql`select 1`.execute(database()).then(
    () => true,
    () => false,
  )
  return Promise.race([answers, late])
}
