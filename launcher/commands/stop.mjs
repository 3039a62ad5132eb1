import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { stateFolder } from '../paths.mjs'
import { isLauncher } from '../launchers.mjs'

/** Stops what `start` started. */
export const stop = () => stopAt(stateFolder('site'))

/** Stops what runs on a state folder, and says so. @param {string} folder */
export const stopAt = async (folder) => {
  const file = join(folder, 'run.json')
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
