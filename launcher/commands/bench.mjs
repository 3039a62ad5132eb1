import { spawnSync } from 'node:child_process'
import { project } from '../paths.mjs'
import { prepareToTest } from '../setup.mjs'

/** Measures, and writes docs/benchmarks.md. */
export const bench = () => {
  prepareToTest()
  return spawnSync('npx', ['tsx', 'tests/bench/main.ts'], { cwd: project, stdio: 'inherit' }).status ?? 1
}
