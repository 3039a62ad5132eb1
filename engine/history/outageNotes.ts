import pg from 'pg'
import { Backoff } from '#pacing/backoff'

const connectMs = 3000
const answerMs = 5000
const [againMs, longestAgainMs] = [500, 15_000]

/**
 * Since when something is missing in the record of links, in the database: what was not filled in yet when a process ends, is
 * filled in by the next one, on whatever machine. What cannot be noted now is noted later.
 */
export class OutageNotes {
  private pool: pg.Pool
  /** What is still to be noted, by link: since when, Unix ms; null: nothing is missing any more. */
  private waiting = new Map<number, number | null>()
  private working = false
  private closed = false
  private pauses = new Backoff(againMs, longestAgainMs)
  private timer: NodeJS.Timeout | null = null

  constructor(url: string) {
    this.pool = new pg.Pool({
      ...{ connectionString: url, max: 1, connectionTimeoutMillis: connectMs, statement_timeout: answerMs, query_timeout: answerMs },
      ...{ keepAlive: true, application_name: 'conduit outages' },
    })
    this.pool.on('error', () => {})
    this.pool.on('connect', (client) => client.on('error', () => {}))
  }

  /** @param since null: all is there */
  note(link: number, since: number | null) {
    this.waiting.set(link, since)
    void this.work()
  }

  /** Rejects while the database is away. */
  async since(link: number): Promise<number | null> {
    const { rows } = await this.pool.query<{ since: Date }>('select since from history_outage where link = $1', [link])
    return rows[0]?.since.getTime() ?? null
  }

  async close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    await this.pool.end().catch(() => {})
  }

  private async work() {
    if (this.working || this.closed) return
    this.working = true
    if (this.timer) clearTimeout(this.timer)
    try {
      for (const [link, since] of this.waiting) {
        await this.write(link, since)
        if (this.waiting.get(link) === since) this.waiting.delete(link)
      }
      this.pauses.reset()
    } catch {
      // its time comes
    } finally {
      this.working = false
    }
    if (this.waiting.size > 0 && !this.closed) this.timer = setTimeout(() => void this.work(), this.pauses.next())
  }

  private async write(link: number, since: number | null) {
    if (since === null) await this.pool.query('delete from history_outage where link = $1', [link])
    // an earlier one stays, and of a link that is gone nothing is missing
    else
      await this.pool.query(
        `insert into history_outage (link, since) select id, $2 from link where id = $1
         on conflict (link) do update set since = least(history_outage.since, excluded.since)`,
        [link, new Date(since)],
      )
  }
}
