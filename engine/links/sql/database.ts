import { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { Kysely, MysqlDialect, PostgresDialect, sql, type Dialect, type RawBuilder, type CompiledQuery } from 'kysely'
import { createPool } from 'mysql2'
import pg from 'pg'
import { tlsDemands } from '#core/contracts/protection'
import type { SqlSettings } from '#core/sql/settings'
import { within } from '#pacing/within'
import type { Wire } from '../../wire/wire'
import type { AskedRows, RowQuery } from '../receiving'
import { askMysql, askPostgresql } from './asking'
import { callOnMysql, callOnPostgresql, type RoutineCall } from './routines'
import { seenWithin } from './seenWithin'

/** Tables of others: nothing is known of them before the catalogue was asked. */
type Foreign = Record<string, never>
type Row = Record<string, unknown>

/** Inside of the package: what a connection reads and writes, once it is encrypted. */
interface Encrypted {
  stream: Duplex
}

/** More than the database is given for it itself, so that its own answer comes first. */
const graceMs = 2000
const keepAliveMs = 10_000

/** How a kind of database is spoken to. */
interface Way {
  dialect: Dialect
  ask(query: RowQuery): Promise<AskedRows>
  call(call: RoutineCall): Promise<AskedRows>
}

interface Open extends Omit<Way, 'dialect'> {
  db: Kysely<Foreign>
  sockets: Set<Socket>
}

/** The connections to one database. Once one of them hangs, all of them are closed, and the next statement opens others. */
export class Connections {
  private open: Open | null = null

  constructor(
    private settings: SqlSettings,
    private password: string,
    private wire: Wire,
  ) {}

  /** Runs a statement within the time that statements have. Rejects with what the package says. */
  async rows(statement: RawBuilder<unknown>): Promise<Row[]> {
    const { rows } = await this.timed(statement.execute(this.opened().db))
    return rows as Row[]
  }

  /** How many rows a statement came to. */
  async changed(statement: CompiledQuery): Promise<number> {
    const { numAffectedRows } = await this.timed(this.opened().db.executeQuery(statement))
    return Number(numAffectedRows ?? 0n)
  }

  /** All of them, or none where the database can take back what was made. */
  async together(statements: readonly string[]): Promise<void> {
    const all = this.opened()
      .db.transaction()
      .execute(async (one) => {
        for (const statement of statements) await sql.raw(statement).execute(one)
      })
    await this.timed(all)
  }

  /** Rows within a transaction that may only read. */
  ask(query: RowQuery): Promise<AskedRows> {
    return this.timed(this.opened().ask(query))
  }

  /** Runs a procedure or function. */
  call(call: Omit<RoutineCall, 'within'>): Promise<AskedRows> {
    return this.timed(this.opened().call({ ...call, within: this.settings.patience.answer }))
  }

  /** Whatever is under way ends with an error. */
  drop() {
    const { open } = this
    this.open = null
    if (!open) return
    for (const socket of open.sockets) socket.destroy()
    void open.db.destroy().catch(() => {})
  }

  async close(): Promise<void> {
    const { open } = this
    this.open = null
    if (!open) return
    await within(graceMs, open.db.destroy()).catch(() => {})
    for (const socket of open.sockets) socket.destroy()
  }

  private timed<T>(work: Promise<T>): Promise<T> {
    const { connect, answer } = this.settings.patience
    return within(connect + answer + graceMs, work)
  }

  private opened(): Open {
    if (!this.open) {
      const sockets = new Set<Socket>()
      const { dialect, ...ways } = this.settings.dialect === 'mysql' ? this.mysql(sockets) : this.postgresql(sockets)
      this.open = { sockets, ...ways, db: new Kysely<Foreign>({ dialect }) }
    }
    return this.open
  }

  private get peer() {
    return `${this.settings.host}:${this.settings.port}`
  }

  /** @param isSeen whether what passes here can be read */
  private socket(sockets: Set<Socket>, isSeen: boolean): Socket {
    const socket = isSeen ? this.wire.tap.socket(this.peer) : new Socket()
    // connections over which nothing passes are forgotten by firewalls and address translations on the way
    sockets.add(socket.setKeepAlive(true, keepAliveMs))
    socket.once('close', () => sockets.delete(socket))
    return socket
  }

  private postgresql(sockets: Set<Socket>): Way {
    const { host, port, database, user, connections, patience, tls } = this.settings
    const pool = new pg.Pool({
      ...{ host, port, database, user, password: this.password, max: connections },
      connectionTimeoutMillis: patience.connect,
      statement_timeout: patience.answer,
      query_timeout: patience.answer + graceMs / 2,
      ...{ keepAlive: true, keepAliveInitialDelayMillis: keepAliveMs },
      ssl: this.protection(),
      application_name: 'keen-conduit',
      options: '-c timezone=UTC',
      stream: () => this.socket(sockets, tls.mode === 'off') as never,
      Client: seenWithin((connection) => this.wire.attendOne(connection, this.peer)),
    })
    pool.on('error', () => {})
    // one that breaks while nobody listens would end the process
    pool.on('connect', (client) => client.on('error', () => {}))
    return {
      dialect: new PostgresDialect({ pool }),
      ask: (query) => askPostgresql(pool, query),
      call: (call) => callOnPostgresql(pool, call),
    }
  }

  private mysql(sockets: Set<Socket>): Way {
    const { host, port, database, user, connections, patience, tls } = this.settings
    const isEncrypted = tls.mode !== 'off'
    const pool = createPool({
      ...{ host, port, database, user, password: this.password, connectionLimit: connections },
      connectTimeout: patience.connect,
      timezone: 'Z',
      charset: 'utf8mb4',
      supportBigNumbers: true,
      ...(isEncrypted ? { ssl: this.protection() as object } : {}),
      stream: () => {
        const socket = this.socket(sockets, !isEncrypted)
        socket.on('error', () => {})
        return socket.connect({ host, port })
      },
    })
    pool.on('connection', (connection) => {
      connection.on('error', () => {})
      // signing in has passed by then
      if (isEncrypted) this.wire.attendOne((connection as unknown as Encrypted).stream, this.peer)
      connection.query("set time_zone = '+00:00', sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'", () => {})
    })
    return {
      dialect: new MysqlDialect({ pool: pool as never }),
      ask: (query) => askMysql(pool, query),
      call: (call) => callOnMysql(pool.promise(), call),
    }
  }

  private protection() {
    return tlsDemands(this.settings.tls) ?? false
  }
}
