import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { project } from './paths.mjs'
import { serverPrograms } from './postgres.mjs'

/** @typedef {{ name: string, isThere: () => boolean }} DebianPackage */

const postgresql = { name: 'postgresql', isThere: () => serverPrograms() !== null }
/** What a path check looks further with; without them it says what it could not measure. */
const network = [
  { name: 'iproute2', isThere: () => isProgram('ip') },
  { name: 'iputils-ping', isThere: () => isProgram('ping') },
  { name: 'nftables', isThere: () => isProgram('nft') },
]
const browser = [
  { name: 'socat', isThere: () => existsSync('/usr/bin/socat') },
  { name: 'chromium', isThere: () => existsSync('/usr/bin/chromium') },
  { name: 'curl', isThere: () => existsSync('/usr/bin/curl') },
  { name: 'chromium-driver', isThere: () => existsSync('/usr/bin/chromedriver') },
]

const isProgram = (/** @type {string} */ name) =>
  ['/usr/bin', '/bin', '/usr/sbin', '/sbin'].some((folder) => existsSync(join(folder, name)))

/** What running needs: the database server, the npm packages, a build. */
export const prepareToRun = () => {
  installDebian([postgresql, ...network])
  installNpm()
  build()
}

/** What a node needs: the npm packages, and its engine. */
export const prepareNode = () => {
  installDebian(network)
  installNpm()
  buildBundles()
}

/** What testing needs beyond that. */
export const prepareToTest = () => {
  installDebian([postgresql, ...network, ...browser])
  installNpm()
}

/** @param {DebianPackage[]} packages */
const installDebian = (packages) => {
  const missing = packages.filter(({ isThere }) => !isThere()).map(({ name }) => name)
  if (missing.length === 0) return
  if (process.getuid?.() !== 0)
    throw new Error(`Missing Debian packages: ${missing.join(', ')}. Install them as root: apt-get install ${missing.join(' ')}`)
  sayAside(`installing Debian packages: ${missing.join(', ')}`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  must('apt-get', ['update', '-qq'], env)
  must('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], env)
}

const installNpm = () => {
  const wanted = digest([join(project, 'package-lock.json')])
  const stamp = join(project, 'node_modules', '.conduit-stamp')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  sayAside('installing npm packages')
  must('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])
  writeFileSync(stamp, wanted)
}

const builtFrom = [
  'app',
  'core',
  'db',
  'demo',
  'engine',
  'pacing',
  'public',
  'security',
  'server',
  'shared',
  'standins',
  'nuxt.config.ts',
  'package-lock.json',
  'launcher/bundle.mjs',
]

const nodeStamp = join(project, '.output', 'bundles', '.conduit-stamp')
const nodeBuiltFrom = ['core', 'db', 'engine', 'security', 'shared', 'pacing', 'package-lock.json', 'launcher/bundle.mjs']

/** Builds the web application and the engine's bundles, unless nothing changed since the last time. */
export const build = () => {
  const wanted = digest(builtFrom.flatMap((name) => filesBelow(join(project, name))))
  const stamp = join(project, '.output', '.conduit-stamp')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  sayAside('building (about half a minute)')
  must('npm', ['run', '--silent', 'build'])
  mkdirSync(join(project, '.output', 'bundles'), { recursive: true })
  writeFileSync(stamp, wanted)
  writeFileSync(nodeStamp, digest(nodeBuiltFrom.flatMap((name) => filesBelow(join(project, name)))))
}

/** Only what runs beside the web application: enough for a node. Where all was built, that is there. */
const buildBundles = () => {
  const wanted = digest(nodeBuiltFrom.flatMap((name) => filesBelow(join(project, name))))
  if (existsSync(nodeStamp) && readFileSync(nodeStamp, 'utf8') === wanted) return
  sayAside('building')
  must(process.execPath, [join(project, 'launcher', 'bundle.mjs')])
  writeFileSync(nodeStamp, wanted)
}

/** @param {string} path @returns {string[]} */
const filesBelow = (path) => {
  if (!existsSync(path)) return []
  if (!statSync(path).isDirectory()) return [path]
  return readdirSync(path)
    .sort()
    .flatMap((name) => filesBelow(join(path, name)))
}

/** @param {string[]} files */
const digest = (files) => {
  const hash = createHash('sha256')
  for (const file of files) hash.update(relative(project, file)).update(readFileSync(file))
  return hash.digest('hex')
}

/** @param {string} command @param {string[]} args @param {NodeJS.ProcessEnv} [env] */
const must = (command, args, env = process.env) => {
  const { status, stdout, stderr, error } = spawnSync(command, args, { cwd: project, env, encoding: 'utf8', maxBuffer: 1 << 28 })
  if (status === 0) return
  throw new Error(
    `${command} ${args.join(' ')} failed:\n${error?.message ?? `${stdout}\n${stderr}`.trim().split('\n').slice(0, 40).join('\n')}`,
  )
}

/** @param {string} text */
export const say = (text) => console.log(`· ${text}`)

/** What goes on meanwhile, beside what a command writes out. @param {string} text */
const sayAside = (text) => console.error(`· ${text}`)
