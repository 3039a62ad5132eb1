import type pg from 'pg'

/** The row as somebody saw it. */
export interface Seen {
  run: string | null
  node: number | null
  name: string
  fence: number
  beat: number
  wish: number | null
  /** Since it was renewed, by the clock of the database. */
  ageMs: number
}

export interface Holder {
  node: number
  name: string
  run: string
}

export interface Held extends Holder {
  fence: number
  /** Unix milliseconds. */
  since: number
}

/** The row of `site_lead`, over one connection that is opened anew when it broke. Each question is one statement. */
export class LeadRow {
  private client: Promise<pg.Client> | null = null

  constructor(private make: () => pg.Client) {}

  async see(): Promise<Seen> {
    const { rows } = await this.ask<Seen>(
      `select run, node, name, fence, beat, wish, (extract(epoch from clock_timestamp() - renewed) * 1000)::float8 as "ageMs" from site_lead`,
      [],
    )
    if (!rows[0]) throw new Error('the table of who leads is empty')
    return rows[0]
  }

  /** Leads from now on, if nothing happened since it was seen. Null: something did. @param fence at least */
  async take(seen: Seen, { node, name, run }: Holder, fence = 0): Promise<Held | null> {
    const { rows } = await this.ask<{ fence: number }>(
      `update site_lead set run = $1, node = $2, name = $3, fence = greatest(fence + 1, $4::bigint), beat = beat + 1,
         since = clock_timestamp(), renewed = clock_timestamp(), wish = null
       where fence = $5 and beat = $6 and run is not distinct from $7 returning fence`,
      [run, node, name, fence, seen.fence, seen.beat, seen.run],
    )
    return rows[0] ? { node, name, run, fence: rows[0].fence, since: Date.now() } : null
  }

  /** Null: it is not ours any more. */
  async renew({ run, fence }: Held): Promise<{ wish: number | null } | null> {
    const { rows } = await this.ask<{ wish: number | null }>(
      'update site_lead set beat = beat + 1, renewed = clock_timestamp() where run = $1 and fence = $2 returning wish',
      [run, fence],
    )
    return rows[0] ?? null
  }

  async release({ run, fence }: Held): Promise<void> {
    await this.ask('update site_lead set run = null, beat = beat + 1, renewed = clock_timestamp() where run = $1 and fence = $2', [
      run,
      fence,
    ])
  }

  async close(): Promise<void> {
    const { client } = this
    this.client = null
    await client?.then((open) => open.end()).catch(() => {})
  }

  private async ask<T extends pg.QueryResultRow>(text: string, values: unknown[]): Promise<pg.QueryResult<T>> {
    const client = await (this.client ??= this.open())
    try {
      return await client.query<T>(text, values)
    } catch (error) {
      // whatever became of it, the next question goes over another connection
      this.client = null
      void client.end().catch(() => {})
      throw error
    }
  }

  private async open(): Promise<pg.Client> {
    const client = this.make()
    client.on('error', () => (this.client = null))
    try {
      await client.connect()
      return client
    } catch (error) {
      this.client = null
      void client.end().catch(() => {})
      throw error
    }
  }
}
