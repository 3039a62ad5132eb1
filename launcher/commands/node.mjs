import { spawn } from 'node:child_process'
import { openSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { runInForeground } from '../foreground.mjs'
import { becomeNode, isNode, NodeStack, nodeStatus } from '../nodeStack.mjs'
import { project, stateFolder } from '../paths.mjs'
import { prepareNode, say } from '../setup.mjs'
import { refuseSecond } from '../stack.mjs'
import { unitFor } from './service.mjs'
import { stopAt } from './stop.mjs'

const help = `This machine as a node of a site elsewhere: it runs links that are edited there.

  ./conduit node CODE      makes this machine a node by the code that the site shows under Site › Nodes, and starts it
  ./conduit node start     starts it again, in the background
  ./conduit node run       the same in the foreground, for a service manager
  ./conduit node stop      stops it
  ./conduit node status    how it is: its site, its links, what is not as configured
  ./conduit node service   prints a systemd unit that starts it with the machine
  ./conduit node leave     ends being a node here; what it was told and recorded is removed
`

const folder = () => stateFolder('node')
const needsNode = () => {
  if (!isNode(folder()))
    throw new Error('This machine is no node yet. The command that makes it one is shown at its site under Site › Nodes.')
}

/** @param {string} code */
const become = async (code) => {
  refuseSecond(folder())
  prepareNode()
  const { node, site, fingerprint } = becomeNode(folder(), code)
  say(`This machine is the node “${node}” of “${site}” now; its key is ${fingerprint.slice(0, 16)}….`)
  await start()
  console.log('To start it with the machine: ./conduit node service')
}

const start = async () => {
  needsNode()
  refuseSecond(folder())
  prepareNode()
  const file = join(folder(), 'launcher.log')
  const log = openSync(file, 'a')
  const child = spawn(process.execPath, [join(project, 'launcher', 'main.mjs'), 'node', 'run'], {
    detached: true,
    stdio: ['ignore', log, log, 'ipc'],
  })
  await new Promise((resolve, reject) => {
    child.once('message', resolve)
    child.once('exit', () => reject(new Error(`It did not start; see ${file}.`)))
  })
  child.disconnect()
  child.unref()
  await untilConnected()
  status()
}

/** It comes in within a moment, or says why not. */
const untilConnected = async () => {
  for (let tries = 0; tries < 100; tries++) {
    const told = nodeStatus(folder())
    if (told?.isConnected || told?.problem) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
}

const run = async () => {
  needsNode()
  prepareNode()
  const stack = new NodeStack({ folder: folder(), tell: say })
  await runInForeground(stack, () => {
    say(`Runs as the node “${nodeStatus(folder())?.node}”.`)
    process.send?.({ started: true })
  })
}

const staleMs = 15_000

const status = () => {
  needsNode()
  const told = nodeStatus(folder())
  const isRunning = told && isAlive(told.pid) && Date.now() - told.writtenAt < staleMs
  if (!told || !isRunning) {
    console.log('It does not run. ./conduit node start starts it.')
    return 1
  }
  const since = new Date(told.since).toLocaleString('sv')
  console.log(`Node          ${told.node} of ${told.site}`)
  console.log(`Site          ${told.isConnected ? `connected at ${told.at} since ${since}` : `not connected since ${since}`}`)
  if (!told.isConnected && told.problem) console.log(`              ${told.problem}\n              ${told.next}`)
  console.log(`Configuration revision ${told.revision}`)
  if (told.waiting > 0) console.log(`Its record    ${told.waiting} samples wait for the site`)
  for (const { name, sentence } of told.links) console.log(`Link          ${name}: ${sentence}`)
  for (const what of told.notInForce) console.log(`Not as configured: ${what}`)
  return told.isConnected && told.notInForce.length === 0 ? 0 : 1
}

/** @param {number} pid */
const isAlive = (pid) => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

const leave = async () => {
  needsNode()
  await stopAt(folder())
  rmSync(folder(), { recursive: true, force: true })
  say('This machine is no node any more. Remove the node at its site as well (Site › Nodes).')
}

/** @type {Record<string, () => Promise<number | void> | number | void>} */
const actions = {
  start,
  run,
  stop: () => stopAt(folder()),
  status,
  service: () => console.log(unitFor('keen-conduit-node', 'Keen Conduit, node of a site', 'node run')),
  leave,
}

/** This machine as a node of a site elsewhere. */
export const node = () => {
  const what = process.argv[3]
  if (!what) return console.log(help)
  return (actions[what] ?? (() => become(what)))()
}
