import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { project } from '../paths.mjs'
import { build, prepareToTest, say } from '../setup.mjs'

/** @typedef {{ passed: number, failed: number, failures?: string[] }} Count `failures`: what failed, a line each */

/** The longest first. */
const checks = [
  { name: 'lint', args: ['eslint', '--max-warnings=0', '.'] },
  { name: 'types of the application', args: ['nuxi', 'typecheck'] },
  { name: 'types of the server', args: ['tsc', '--noEmit', '-p', '.nuxt/tsconfig.server.json'] },
  { name: 'types', args: ['tsc', '-p', 'tsconfig.node.json'] },
  { name: 'types of the launcher', args: ['tsc', '-p', 'tsconfig.launcher.json'] },
  { name: 'format', args: ['prettier', '--check', '--log-level=warn', '.'] },
]

/** By the projects of the test configuration. */
const suites = ['unit', 'app', 'engine', 'engine-parts', 'e2e', 'e2e-alone']

/** Everything; ends with what failed, and a line of counts. */
export const test = async () => {
  prepareToTest()
  /** @type {Count} */
  const total = { passed: 0, failed: 0, failures: [] }
  for (const part of await runChecks()) add(total, part)
  build()
  for (const suite of suites) add(total, runSuite(suite))
  for (const failure of total.failures ?? []) console.log(`failed: ${failure}`)
  console.log(`${total.passed} passed, ${total.failed} failed`)
  return total.failed === 0 ? 0 : 1
}

/** @param {Count} total @param {Count} part */
const add = (total, part) => {
  total.passed += part.passed
  total.failed += part.failed
  total.failures?.push(...(part.failures ?? []))
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
      resolve(status === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1, failures: [name] })
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
    `--reporter=${join(project, 'launcher/unhandled.mjs')}`,
    `--outputFile.json=${report}`,
  ]
  const unhandled = join(folder, 'unhandled.txt')
  const env = { ...process.env, CONDUIT_UNHANDLED: unhandled }
  const { status } = spawnSync('npx', args, { cwd: project, env, stdio: ['ignore', 'inherit', 'inherit'] })
  const count = readReport(report)
  const uncaught = existsSync(unhandled) ? readFileSync(unhandled, 'utf8').trim().split('\n') : []
  rmSync(folder, { recursive: true, force: true })
  if (status === 0 || count.failed > 0) return count
  const why = uncaught.map((line) => `${suite}: nobody caught ${line.slice(0, 300)}`)
  return { ...count, failed: 1, failures: [`${suite}: ended with ${status} although no test failed`, ...why] }
}

/** @param {string} file @returns {Count} */
const readReport = (file) => {
  try {
    const report = JSON.parse(readFileSync(file, 'utf8'))
    const { numPassedTests, numFailedTests } = report
    return {
      passed: numPassedTests,
      failed: numFailedTests + brokenFiles(report).length,
      failures: failuresIn(report),
    }
  } catch {
    return { passed: 0, failed: 1, failures: ['a suite that left no report'] }
  }
}

/**
 * @typedef {{ fullName: string, status: string, failureMessages: string[] }} Assertion
 * @typedef {{ name: string, status: string, message: string, assertionResults: Assertion[] }} TestFile
 */

const failedIn = (/** @type {TestFile} */ file) => file.assertionResults.filter((one) => one.status === 'failed')

/** Files that failed although none of their tests did: not loaded, or a hook around the tests threw. @param {{ testResults: TestFile[] }} report */
const brokenFiles = ({ testResults }) => testResults.filter((file) => file.status === 'failed' && failedIn(file).length === 0)

/** Each failed test with its file and the first line of why, and the broken files. @param {{ testResults: TestFile[] }} report */
const failuresIn = (report) => [
  ...brokenFiles(report).map(
    ({ name, message }) => `${relative(project, name)}: ${firstLine(message) || 'a hook around its tests failed'}`,
  ),
  ...report.testResults.flatMap((file) =>
    failedIn(file).map(
      ({ fullName, failureMessages }) => `${relative(project, file.name)}: ${fullName}: ${firstLine(failureMessages[0] ?? '')}`,
    ),
  ),
]

const firstLine = (/** @type {string} */ text) => (text.split('\n')[0] ?? '').slice(0, 300)
