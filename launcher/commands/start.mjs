import { spawn } from 'node:child_process'
import { openSync } from 'node:fs'
import { join } from 'node:path'
import { tellAccount } from '../account.mjs'
import { runInForeground } from '../foreground.mjs'
import { project, stateFolder } from '../paths.mjs'
import { prepareToRun, say } from '../setup.mjs'
import { refuseSecond, Stack } from '../stack.mjs'

/** The runtime in the foreground. */
export const run = async () => {
  prepareToRun()
  const wishes = process.env.CONDUIT_PORT ? { web: Number(process.env.CONDUIT_PORT) } : {}
  const stack = new Stack({ folder: stateFolder('site'), standins: false, demoData: false, wishes, tell: say })
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
