import { spawn, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { project } from '../paths.mjs'
import { build, prepareToTest, say } from '../setup.mjs'

/** @typedef {{ passed: number, failed: number }} Count */

/** The longest first. */
const checks = [
  { name: 'lint', args: ['eslint', '--max-warnings=0', '.'] },
  { name: 'types of the application', args: ['nuxi', 'typecheck'] },
  { name: 'types', args: ['tsc', '-p', 'tsconfig.node.json'] },
  { name: 'types of the launcher', args: ['tsc', '-p', 'tsconfig.launcher.json'] },
  { name: 'format', args: ['prettier', '--check', '--log-level=warn', '.'] },
]

const suites = ['unit', 'app', 'engine', 'e2e']

/** Everything; ends with a line of counts. */
export const test = async () => {
  prepareToTest()
  /** @type {Count} */
  const total = { passed: 0, failed: 0 }
  for (const part of await runChecks()) add(total, part)
  build()
  for (const suite of suites) add(total, runSuite(suite))
  console.log(`${total.passed} passed, ${total.failed} failed`)
  return total.failed === 0 ? 0 : 1
}

/** @param {Count} total @param {Count} part */
const add = (total, part) => {
  total.passed += part.passed
  total.failed += part.failed
}

/** Two at a time: each of them uses one core. @returns {Promise<Count[]>} */
const runChecks = async () => {
  const left = [...checks]
  /** @type {Count[]} */
  const counts = []
  const lane = async () => {
    for (let check = left.shift(); check; check = left.shift()) counts.push(await runCheck(check))
  }
  await Promise.all([lane(), lane()])
  return counts
}

/** @param {{ name: string, args: string[] }} check @returns {Promise<Count>} */
const runCheck = ({ name, args }) =>
  new Promise((resolve) => {
    const child = spawn('npx', ['--no-install', ...args], { cwd: project })
    let told = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (/** @type {Buffer} */ chunk) => (told += String(chunk)))
    child.on('close', (status) => {
      say(`${name}: ${status === 0 ? 'sound' : 'not sound'}`)
      if (status !== 0) console.log(told.trim())
      resolve({ passed: Number(status === 0), failed: Number(status !== 0) })
    })
  })

/** @param {string} suite @returns {Count} */
const runSuite = (suite) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-test-'))
  const report = join(folder, 'report.json')
  const args = [
    '--no-install',
    'vitest',
    'run',
    `--project=${suite}`,
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ]
  const { status } = spawnSync('npx', args, { cwd: project, stdio: ['ignore', 'inherit', 'inherit'] })
  const count = readReport(report)
  rmSync(folder, { recursive: true, force: true })
  return { passed: count.passed, failed: status !== 0 && count.failed === 0 ? 1 : count.failed }
}

/** @param {string} file @returns {Count} */
const readReport = (file) => {
  try {
    const { numPassedTests, numFailedTests, numFailedTestSuites, numTotalTests } = JSON.parse(readFileSync(file, 'utf8'))
    return { passed: numPassedTests, failed: numFailedTests + (numTotalTests === 0 ? numFailedTestSuites : 0) }
  } catch {
    return { passed: 0, failed: 1 }
  }
}
