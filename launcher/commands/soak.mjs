import { spawnSync } from 'node:child_process'
import { project } from '../paths.mjs'
import { prepareToRun } from '../setup.mjs'

/** Uses a site, kills and breaks it at random meanwhile, and looks whether everybody agrees at the end. */
export const soak = () => {
  prepareToRun()
  const args = ['tsx', 'tests/soak/main.ts', ...process.argv.slice(3)]
  return spawnSync('npx', args, { cwd: project, stdio: 'inherit' }).status ?? 1
}
