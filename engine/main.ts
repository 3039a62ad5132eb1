import { mkdirSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import pino from 'pino'
import { connect } from '#db/connect'
import { Seal } from '#security/seal'
import { Journal } from './journal/journal'
import { SiteMachine } from './lead/siteMachine'
import { requireInternals } from './opcua/internals'
import { openRpc } from './rpc/server'

const required = (name: string): string => {
  const value = process.env[name]
  if (!value) throw new Error(`${name} is not set; ./conduit start sets it.`)
  return value
}

const leaveMs = 200
const stopMs = 6500

const main = async () => {
  const log = pino({ base: { process: 'engine' } })
  requireInternals()
  const stateFolder = required('CONDUIT_STATE')
  mkdirSync(stateFolder, { recursive: true })
  const databaseUrl = required('CONDUIT_DATABASE')
  const secret = required('CONDUIT_SEAL_KEY')
  const db = connect(databaseUrl, (error) => log.warn({ error: error.message }, 'idle database connection lost'))
  const journal = new Journal(db, log, join(stateFolder, 'unsaved-writes.jsonl'))
  const rpc = await openRpc({
    host: process.env.CONDUIT_RPC_HOST ?? '127.0.0.1',
    port: Number(required('CONDUIT_RPC_PORT')),
    secret: required('CONDUIT_RPC_SECRET'),
  })
  const machine = new SiteMachine({
    ...{ stateFolder, databaseUrl, secret, seal: new Seal(secret), db, journal, log, rpc },
    isOwnDatabase: process.env.CONDUIT_DATABASE_OWN === '1',
    hostname: process.env.CONDUIT_NODE ?? hostname(),
    version: process.env.CONDUIT_VERSION ?? '',
    endedRun: process.env.CONDUIT_ENDED_RUN ?? null,
    tellRun: (run) => process.send?.({ run }),
    leave: (why) => {
      // the launcher hears of it first
      process.send?.({ leaves: why }, () => process.exit(1))
      setTimeout(() => process.exit(1), leaveMs)
    },
  })

  const because = process.env.CONDUIT_RETURNED_BECAUSE
  if (because) journal.caution('Engine', `Brought back: ${because}.`)
  else journal.note('Engine', 'Started.')
  await machine.start()

  const stop = async () => {
    setTimeout(() => process.exit(0), stopMs).unref()
    await machine.stop()
    await rpc.close()
    journal.note('Engine', 'Stopped.')
    await journal.close()
    await db.destroy().catch(() => {})
    process.exit(0)
  }
  process.once('SIGTERM', () => void stop())
  process.once('SIGINT', () => void stop())
  process.once('disconnect', () => void stop())
  process.on('unhandledRejection', (reason) => journal.trouble('Engine', `Something went wrong that nobody expected: ${String(reason)}`))
}

await main()
