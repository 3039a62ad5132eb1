import { spawn } from 'node:child_process'
import { openSync } from 'node:fs'
import { join } from 'node:path'
import { tellAccount } from '../account.mjs'
import { runInForeground } from '../foreground.mjs'
import { project, stateFolder } from '../paths.mjs'
import { rotatingLog } from '../rotatingLog.mjs'
import { prepareToRun, say } from '../setup.mjs'
import { refuseSecond, Stack } from '../stack.mjs'

/** The runtime in the foreground. */
export const run = async () => {
  prepareToRun()
  const wishes = process.env.CONDUIT_PORT ? { web: Number(process.env.CONDUIT_PORT) } : {}
  const folder = stateFolder('site')
  // in the background it goes on for years: what it says is kept within bounds
  const log = process.send ? rotatingLog(join(folder, 'launcher.log')) : null
  /** @param {string} text */
  const tell = (text) => (log ? log.write(Buffer.from(`${new Date().toISOString()} ${text}\n`)) : say(text))
  const stack = new Stack({ folder, standins: false, demoData: false, wishes, tell })
  await runInForeground(stack, () => {
    say(`Keen Conduit runs at http://127.0.0.1:${stack.ports.web}`)
    if (stack.firstAccount && !process.send) tellAccount(stack.firstAccount)
    process.send?.({ web: stack.ports.web, account: stack.firstAccount })
  })
  return 0
}

/** The same in the background. */
export const start = async () => {
  refuseSecond(stateFolder('site'))
  prepareToRun()
  const log = openSync(join(stateFolder('site'), 'launcher.log'), 'a')
  const child = spawn(process.execPath, [join(project, 'launcher', 'main.mjs'), 'run'], {
    detached: true,
    stdio: ['ignore', log, log, 'ipc'],
  })
  /** @type {{ web: number, account: import('../account.mjs').Account | null }} */
  const { web, account } = await new Promise((resolve, reject) => {
    child.once('message', resolve)
    child.once('exit', () => reject(new Error(`It did not start; see ${join(stateFolder('site'), 'launcher.log')}.`)))
  })
  child.disconnect()
  child.unref()
  console.log(`Keen Conduit runs at http://127.0.0.1:${web}; ./conduit stop stops it.`)
  if (account) tellAccount(account)
  return 0
}
