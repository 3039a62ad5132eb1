import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { stateFolder } from '../paths.mjs'
import { isLauncher } from '../stack.mjs'

/** Stops what `start` started. */
export const stop = async () => {
  const file = join(stateFolder('site'), 'run.json')
  const pid = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')).pid : 0
  if (!isLauncher(pid)) {
    console.log('It does not run.')
    return 0
  }
  process.kill(pid, 'SIGTERM')
  for (let tries = 0; tries < 300 && isLauncher(pid); tries++) await new Promise((resolve) => setTimeout(resolve, 100))
  console.log(isLauncher(pid) ? `Process ${pid} does not stop.` : 'Stopped.')
  return isLauncher(pid) ? 1 : 0
}
