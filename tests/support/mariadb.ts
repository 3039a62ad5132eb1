import { spawn, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createConnection } from 'mysql2/promise'
import { freePort } from '../../launcher/ports.mjs'
import { waitForPort } from '../../launcher/postgres.mjs'
import { until } from './until'

/** A MariaDB server of Debian's package on a free port of loopback, with an account and a database of its own; gone afterwards. */
export const startMariadb = async ({ tls = null }: { tls?: { certificate: string; key: string } | null } = {}) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-mariadb-'))
  const data = join(folder, 'data')
  const port = await freePort()
  const asUser = process.getuid?.() === 0 ? ['--user=root'] : []
  const made = spawnSync('mariadb-install-db', [
    ...['--no-defaults', `--datadir=${data}`, '--auth-root-authentication-method=normal', '--skip-test-db', ...asUser],
  ])
  if (made.status !== 0) throw new Error(`mariadb-install-db: ${made.stderr?.toString().slice(-400) ?? made.error?.message}`)
  const args = [
    ...[
      '--no-defaults',
      `--datadir=${data}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      `--socket=${join(folder, 'socket')}`,
      ...asUser,
    ],
    ...['--innodb-flush-log-at-trx-commit=2', '--skip-networking=0', '--skip-name-resolve', `--pid-file=${join(folder, 'pid')}`],
  ]
  if (tls) {
    for (const [name, text] of [
      ['cert', tls.certificate],
      ['key', tls.key],
    ] as const) {
      writeFileSync(join(folder, name), text, { mode: 0o600 })
      args.push(`--ssl-${name}=${join(folder, name)}`)
    }
  }
  const begin = async () => {
    const server = spawn('mariadbd', args, { stdio: 'ignore' })
    await waitForPort(port)
    return server
  }
  let server = await begin()
  const asRoot = async (text: string) => {
    const root = await createConnection({ socketPath: join(folder, 'socket'), user: 'root', multipleStatements: true })
    await root.query(text)
    await root.end()
  }
  // its port listens a moment before its socket does
  await until(
    () =>
      asRoot('select 1').then(
        () => true,
        () => false,
      ),
    Boolean,
    20,
  )
  await asRoot("create database callbook; create user 'conduit'@'%' identified by 'tide'; grant all on callbook.* to 'conduit'@'%'")
  const end = async (signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM') => {
    const ended = new Promise((resolve) => server.once('exit', resolve))
    server.kill(signal)
    await ended
  }
  const settings = { dialect: 'mysql', host: '127.0.0.1', port, database: 'callbook', user: 'conduit', password: { plain: 'tide' } }
  return {
    port,
    settings,
    asRoot,
    query: async (text: string) => {
      const connection = await createConnection({ host: '127.0.0.1', port, user: 'conduit', password: 'tide', database: 'callbook' })
      const [rows] = await connection.query(text)
      await connection.end()
      return rows as Record<string, unknown>[]
    },
    halt: (signal: 'SIGSTOP' | 'SIGCONT') => server.kill(signal),
    end,
    again: async () => (server = await begin()),
    stop: async () => {
      if (server.exitCode === null && server.signalCode === null) await end('SIGKILL')
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
