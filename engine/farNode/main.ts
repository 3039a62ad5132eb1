import { join } from 'node:path'
import pino from 'pino'
import { isFault } from '#core/faults/catalogue'
import { Seal } from '#security/seal'
import { writeWhole } from '#security/wholeFile'
import { requireInternals } from '../opcua/internals'
import { farEngine } from './farEngine'
import { NodeIdentity } from './identity'
import { joinSite } from './joining'

/**
 * The process of a node. With `join <code>` it makes this machine a node of the site that made the code, and ends; with `standby <code>`
 * one that stands by for it; else it runs as what it was made.
 */

const required = (name: string): string => {
  const value = process.env[name]
  if (!value) throw new Error(`${name} is not set; ./conduit sets it.`)
  return value
}

const statusEveryMs = 1000

const becomeNode = async (code: string, standsBy: boolean) => {
  const identity = await joinSite(code, version(), required('CONDUIT_STATE'), new Seal(required('CONDUIT_SEAL_KEY')), standsBy)
  console.log(JSON.stringify({ node: identity.name, site: identity.site, fingerprint: identity.fingerprint }))
}

const version = () => process.env.CONDUIT_VERSION ?? ''

const run = async () => {
  const stateFolder = required('CONDUIT_STATE')
  const seal = new Seal(required('CONDUIT_SEAL_KEY'))
  const identity = NodeIdentity.load(stateFolder, seal)
  if (!identity) throw new Error('This machine is no node yet: ./conduit node <code> makes it one.')
  requireInternals()
  const log = pino({ base: { process: 'node' } })
  const node = await farEngine({ identity, stateFolder, seal, version: version(), log })
  const because = process.env.CONDUIT_RETURNED_BECAUSE
  if (because) node.journal.caution('Engine', `Brought back: ${because}.`)
  const told = () => {
    try {
      writeWhole(join(stateFolder, 'node-status.json'), JSON.stringify({ pid: process.pid, writtenAt: Date.now(), ...node.status() }))
    } catch (error) {
      log.warn({ error: (error as Error).message }, 'the status could not be written')
    }
  }
  told()
  const timer = setInterval(told, statusEveryMs)
  const stop = async () => {
    clearInterval(timer)
    setTimeout(() => process.exit(0), 6000).unref()
    await node.close()
    process.exit(0)
  }
  process.once('SIGTERM', () => void stop())
  process.once('SIGINT', () => void stop())
  process.once('disconnect', () => void stop())
  process.on('unhandledRejection', (reason) =>
    node.journal.trouble('Engine', `Something went wrong that nobody expected: ${String(reason)}`),
  )
}

const [what, code = ''] = process.argv.slice(2)
try {
  await (what === 'join' || what === 'standby' ? becomeNode(code, what === 'standby') : run())
} catch (error) {
  console.error(isFault(error) ? `${error.what}\n${error.next}` : (error as Error).message)
  process.exit(1)
}
