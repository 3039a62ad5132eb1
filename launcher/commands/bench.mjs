import { spawnSync } from 'node:child_process'
import { project } from '../paths.mjs'
import { prepareToTest } from '../setup.mjs'

/** Measures, and writes docs/benchmarks.md; only the cases that are named, where any are. */
export const bench = () => {
  prepareToTest()
  return spawnSync('npx', ['tsx', 'tests/bench/main.ts', ...process.argv.slice(3)], { cwd: project, stdio: 'inherit' }).status ?? 1
}
