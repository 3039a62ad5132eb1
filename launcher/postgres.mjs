import { spawnSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { chownSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'

const user = 'conduit'

/** Debian keeps the server's programs per version; the newest that has a server is taken, null where none has. */
export const serverPrograms = () => {
  const root = '/usr/lib/postgresql'
  if (!existsSync(root)) return null
  const folders = readdirSync(root)
    .filter((name) => Number.isFinite(Number(name)))
    .sort((a, b) => Number(b) - Number(a))
    .map((name) => join(root, name, 'bin'))
  return folders.find((folder) => existsSync(join(folder, 'postgres'))) ?? null
}

/** @param {string} name */
const program = (name) => join(serverPrograms() ?? '', name)

/** PostgreSQL refuses to run as root: there it runs as the account of Debian's package. */
const account = () => {
  if (process.getuid?.() !== 0) return {}
  const line = readFileSync('/etc/passwd', 'utf8')
    .split('\n')
    .find((entry) => entry.startsWith('postgres:'))
  if (!line) throw new Error('The account “postgres” is missing; Debian’s package postgresql makes it.')
  const [, , uid, gid] = line.split(':')
  return { uid: Number(uid), gid: Number(gid) }
}

/** Where the data of a site is. @param {string} folder @param {number} port @returns {string} */
export const databaseUrl = (folder, port) =>
  elsewhereDatabase(folder) ?? `postgres://${user}:${secretOf(folder, 'database')}@127.0.0.1:${port}/postgres`

/**
 * The project's own cluster: its data below the state folder, on loopback, with a generated password.
 * @param {string} folder @param {number} port @param {boolean} throwaway it need not outlive a power cut
 * @returns {{ url: string, spec: import('./child.mjs').ChildSpec }}
 */
export const preparePostgres = (folder, port, throwaway = false) => {
  const data = join(folder, 'database')
  const password = secretOf(folder, 'database')
  const owner = account()
  if (!existsSync(join(data, 'PG_VERSION'))) initialise(data, password, owner, throwaway)
  endLeftover(data)
  return {
    url: databaseUrl(folder, port),
    spec: {
      name: 'database',
      command: program('postgres'),
      args: [
        '-D',
        data,
        ...[...settings(port), ...(throwaway ? ['fsync=off', 'full_page_writes=off'] : [])].flatMap((setting) => ['-c', setting]),
      ],
      stopSignal: 'SIGINT',
      answers: () => answersQuestion(port),
      ...owner,
    },
  }
}

/** @param {number} port */
const settings = (port) => [
  `port=${port}`,
  'listen_addresses=127.0.0.1',
  'unix_socket_directories=',
  'max_connections=60',
  'shared_buffers=64MB',
  'log_min_messages=warning',
]

/** @param {string} data @param {string} password @param {{ uid?: number, gid?: number }} owner @param {boolean} throwaway */
const initialise = (data, password, owner, throwaway) => {
  rmSync(data, { recursive: true, force: true })
  mkdirSync(data, { recursive: true, mode: 0o700 })
  const passwordFile = `${data}.password`
  writeFileSync(passwordFile, password, { mode: 0o600 })
  if (owner.uid) for (const path of [data, passwordFile]) chownSync(path, owner.uid, owner.gid ?? owner.uid)
  const args = [
    '-D',
    data,
    '-U',
    user,
    '--auth=scram-sha-256',
    `--pwfile=${passwordFile}`,
    '--encoding=UTF8',
    '--locale=C.UTF-8',
    ...(throwaway ? ['--no-sync'] : []),
  ]
  const { status, stderr } = spawnSync(program('initdb'), args, { encoding: 'utf8', cwd: '/', ...owner })
  rmSync(passwordFile)
  if (status !== 0) throw new Error(`The database could not be set up: ${stderr}`)
}

/** A server that outlived a launcher killed with -9 would hold the data folder. @param {string} data */
const endLeftover = (data) => {
  const file = join(data, 'postmaster.pid')
  if (!existsSync(file)) return
  const pid = Number(readFileSync(file, 'utf8').split('\n')[0])
  if (!isServerOf(pid, data)) return
  process.kill(pid, 'SIGINT')
  for (let waited = 0; waited < 100 && isServerOf(pid, data); waited++) spawnSync('sleep', ['0.1'])
}

/** @param {number} pid @param {string} data */
const isServerOf = (pid, data) => {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(data)
  } catch {
    return false
  }
}

/** PostgreSQL, 55.2.10: asks whether it takes encryption; a server that works says one letter. */
const question = Buffer.from([0, 0, 0, 8, 4, 210, 22, 47])
const answerMs = 1500

/** Whether the server itself answers: the system takes connections also for one that hangs. @param {number} port @returns {Promise<boolean>} */
const answersQuestion = (port) =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1')
    const done = (/** @type {boolean} */ answers) => {
      socket.destroy()
      resolve(answers)
    }
    socket.setTimeout(answerMs, () => done(false))
    socket.once('connect', () => socket.write(question)).once('data', () => done(true))
    socket.once('error', () => done(false)).once('close', () => done(false))
  })

/** @param {number} port */
export const waitForPort = async (port, seconds = 30) => {
  for (let tries = 0; tries < seconds * 20; tries++) {
    if (await answers(port)) return
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  throw new Error(`Nothing answers on port ${port} after ${seconds} s.`)
}

/** @param {number} port @returns {Promise<boolean>} */
const answers = (port) =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1')
    socket.once('connect', () => resolve(true)).once('error', () => resolve(false))
    socket.once('connect', () => socket.destroy())
  })

/** The database that a site was moved to, or that it shares; null: it has one of its own. @param {string} folder @returns {string | null} */
export const elsewhereDatabase = (folder) => {
  const file = join(folder, 'secrets.json')
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')).databaseUrl ?? null) : null
}

/**
 * A secret of this state folder, made on first use.
 * @param {string} folder @param {string} name
 */
export const secretOf = (folder, name) => {
  const file = join(folder, 'secrets.json')
  const secrets = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {}
  if (!secrets[name]) {
    secrets[name] = randomBytes(24).toString('base64url')
    writeFileSync(file, JSON.stringify(secrets, null, 2), { mode: 0o600 })
  }
  return secrets[name]
}
