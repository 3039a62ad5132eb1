import pg from 'pg'
import { tierMs, type Bucket, type Tier } from '#core/history/bucket'
import { stretchesOf, type Shelf, type Stock, type Stretch } from '#core/history/choosing'
import { denseFrom } from '#core/history/minuteBuckets'
import { PictureBuilder, type Picture } from '#core/history/picture'
import { goodNumber } from '#core/history/goodNumber'
import { commonTier, IntervalBuilder, type Interval } from '#core/history/intervals'
import { within } from '#pacing/within'
import { blankBucket, readColumns, readBucket, readShown, shownColumns } from './buckets'
import { copyEach, copyOut } from './copying'
import { measuredParts, partCalled, shelves, tableOf, type MeasuredPart } from './parts'
import { textsOf, type SeriesTexts } from './texts'
import type { CopyReader } from './copyRows'
import {
  idList,
  lastBefore,
  literal,
  readSample,
  readSamples,
  replacedSamples,
  timesHiding,
  samplesBetween,
  type ReplacedSample,
  type SamplesAsked,
  type StoredSample,
} from './samples'

const mostMs = 30_000
const connectMs = 3000
const mostConnections = 3
const stockForMs = 2000

export interface SeriesPicture extends Picture {
  id: number
  /** Whether nothing was recorded before the span. */
  isFirst: boolean
  /** The coarsest that it was drawn from. */
  drawnFrom: Shelf
}

/** Takes what was recorded, in its order. */
interface SampleSink {
  /** What held before; NaN: nothing good. */
  begin(value: number): void
  sample(at: number, value: number): void
  bucket(bucket: Bucket, end: number): void
}

/** Which fields of buckets are asked for. */
interface Fields {
  columns: string
  read(row: CopyReader, into: Bucket, size: number): void
}
const all: Fields = { columns: readColumns, read: readBucket }
const shown: Fields = { columns: shownColumns, read: readShown }

/** Nothing is known of what comes after now. */
const untilIn = (from: number, to: number, now: number) => Math.min(to, Math.max(now, from))

/** The database did not answer in time. */
export class SlowHistory extends Error {
  constructor(readonly ms: number) {
    super(`no answer within ${ms} ms`)
  }
}

/** Reads what was recorded, over a few connections of its own, so that a long question holds up no other. */
export class HistoryReader {
  private pool: pg.Pool
  private known: { at: number; stock: Promise<Stock> } | null = null

  constructor(url: string, onIdleError: (error: Error) => void = () => {}) {
    this.pool = new pg.Pool({
      ...{ connectionString: url, max: mostConnections, connectionTimeoutMillis: connectMs, keepAlive: true },
      ...{ statement_timeout: mostMs, application_name: 'conduit trends' },
    })
    this.pool.on('error', onIdleError)
    this.pool.on('connect', (client) => client.on('error', () => {}))
  }

  async close() {
    await this.pool.end()
  }

  /** How series went, each as many columns wide. @param now what is last holds on until then, at most to the end of the span */
  pictures(ids: readonly number[], from: number, to: number, columns: number, now = Date.now()): Promise<SeriesPicture[]> {
    return this.connected(async (db) => {
      const stock = await this.stock(db, from)
      const stretches = stretchesOf(from, to, (to - from) / columns, await this.count(db, ids, from, to), stock)
      const builders = new Map(ids.map((id) => [id, new PictureBuilder(from, to, columns)]))
      const held = await this.feed(db, ids, from, stretches, builders, shown)
      const until = untilIn(from, to, now)
      const drawnFrom = shelves.filter((shelf) => stretches.some((stretch) => stretch.shelf === shelf)).at(-1) ?? 'sample'
      return ids.map((id) => ({ id, drawnFrom, isFirst: !held.has(id), ...builders.get(id)!.done(until) }))
    })
  }

  /** Which texts series had over a span. */
  texts(ids: readonly number[], from: number, to: number, columns: number, now = Date.now()): Promise<SeriesTexts[]> {
    return this.connected(async (db) => {
      const texts: SeriesTexts[] = []
      for (const id of ids) texts.push(await textsOf(db, id, { from, to, until: untilIn(from, to, now), columns }))
      return texts
    })
  }

  /**
   * What became of one series between each two borders, exactly where that is still kept.
   * @param borders in their order @param now nothing is known of what comes after it
   */
  intervals(id: number, borders: readonly number[], now = Date.now()): Promise<Interval[]> {
    return this.connected(async (db) => {
      const [from, to] = [borders[0]!, borders.at(-1)!]
      const builder = new IntervalBuilder(borders)
      const tier = commonTier(borders)
      const [column, samples] = tier ? [tierMs[tier], await this.count(db, [id], from, to)] : [0, 0]
      await this.feed(db, [id], from, stretchesOf(from, to, column, samples, await this.stock(db, from)), new Map([[id, builder]]))
      return builder.done(now)
    })
  }

  /** Samples of one series, in the order of their times or backwards; of several of one time only the one that came last. */
  samples(asked: SamplesAsked): Promise<StoredSample[]> {
    return this.connected(async (db) => readSamples(await copyOut(db, samplesBetween(asked))))
  }

  /** Samples of one series that others of the same time took the place of. */
  replaced(asked: SamplesAsked): Promise<ReplacedSample[]> {
    return this.connected((db) => replacedSamples(db, asked))
  }

  /** At which times of a span a sample of one series took the place of others. */
  hiding(asked: Pick<SamplesAsked, 'id' | 'from' | 'to'>): Promise<number[]> {
    return this.connected((db) => timesHiding(db, asked))
  }

  /** Buckets of one series that begin within a span, in their order. */
  buckets(tier: Tier, id: number, from: number, to: number, most: number): Promise<Bucket[]> {
    return this.connected(async (db) => {
      const rows = await copyOut(
        db,
        `select ${readColumns} from ${tableOf(tier)} where series = ${Math.trunc(id)} and at >= ${literal(from)} and at < ${literal(to)}
          order by at limit ${Math.trunc(most)}`,
      )
      const buckets: Bucket[] = []
      while (rows.next()) {
        rows.int4()
        buckets.push(readBucket(rows))
      }
      return buckets
    })
  }

  /** The last sample of each series at or before each of these times. @returns by series, in the order of the times; null: there is none */
  at(ids: readonly number[], times: readonly number[]): Promise<Map<number, (StoredSample | null)[]>> {
    return this.connected(async (db) => {
      const found = new Map(ids.map((id) => [id, times.map((): StoredSample | null => null)]))
      for (const [i, time] of times.entries()) {
        const rows = await copyOut(db, lastBefore(ids, time, '<=', 'series, at, arrived, quality, number, text'))
        while (rows.next()) {
          const series = rows.int4()
          const list = found.get(series)
          const sample = readSample(rows)
          if (list) list[i] = sample
        }
      }
      return found
    })
  }

  /** When the first that is still kept of a series was; null: nothing is. */
  firstAt(id: number): Promise<number | null> {
    return this.connected(async (db) => {
      const of = (table: string) => `(select at from ${table} where series = $1 order by at limit 1)`
      const { rows } = await db.query<{ at: Date | null }>(
        `select min(at) as at from (${['history_sample', 'history_minute', 'history_hour'].map(of).join(' union all ')}) one`,
        [id],
      )
      return rows[0]?.at?.getTime() ?? null
    })
  }

  /** What of a rollup is still to be made again. */
  leftToMake(id: number): Promise<{ from: number; to: number } | null> {
    return this.connected(async (db) => {
      const { rows } = await db.query<{ since: Date; upto: Date }>('select since, upto from history_again where series = $1', [id])
      return rows[0] ? { from: rows[0].since.getTime(), to: rows[0].upto.getTime() } : null
    })
  }

  /** What there is on disk. */
  parts(): Promise<MeasuredPart[]> {
    return this.connected(measuredParts)
  }

  private connected<T>(work: (db: pg.PoolClient) => Promise<T>): Promise<T> {
    return within(mostMs, this.withClient(work), () => new SlowHistory(mostMs))
  }

  private async withClient<T>(work: (db: pg.PoolClient) => Promise<T>): Promise<T> {
    const client = await this.pool.connect()
    try {
      const result = await work(client)
      client.release()
      return result
    } catch (error) {
      // whatever it was in the middle of is over
      client.release(true)
      throw error
    }
  }

  /** @param from what is known for a moment does not do where this was before all of it: it may have come since */
  private async stock(db: pg.PoolClient, from: number): Promise<Stock> {
    const now = Date.now()
    if (this.known && now - this.known.at < stockForMs) {
      const known = await this.known.stock
      if (known.oldest.sample <= from) return known
    }
    const stock = readStock(db)
    this.known = { at: now, stock }
    stock.catch(() => (this.known = null))
    return stock
  }

  /** How many samples there are about: of a span of many hours the one at hand does not matter. */
  private async count(db: pg.PoolClient, ids: readonly number[], from: number, to: number): Promise<number> {
    const { rows } = await db.query<{ count: number | null }>(
      `select sum(count)::float8 as count from history_${to - from > 12 * tierMs.hour ? 'hour' : 'minute'}
        where series = any($1) and at >= $2 and at < $3`,
      [ids, new Date(from), new Date(to)],
    )
    return rows[0]?.count ?? 0
  }

  /** What held at a moment; a value that is NaN was no good number. */
  private async heldAt(db: pg.PoolClient, ids: readonly number[], at: number): Promise<Map<number, number>> {
    const held = new Map<number, number>()
    const rows = await copyOut(db, lastBefore(ids, at, '<', 'series, quality, number'))
    while (rows.next()) {
      const [id, code, number] = [rows.int4(), rows.int4(), rows.float8()]
      held.set(id, goodNumber(number, code))
    }
    const missing = ids.filter((id) => !held.has(id))
    for (const tier of ['minute', 'hour'] as const) {
      if (missing.length === 0) break
      const buckets = await copyOut(db, lastBefore(missing, at - tierMs[tier] + 1, '<', 'series, last, holds', `history_${tier}`))
      while (buckets.next()) {
        const [id, last, holds] = [buckets.int4(), buckets.float8(), buckets.bool()]
        if (!held.has(id)) held.set(id, holds ? last : NaN)
      }
    }
    return held
  }

  /** What held before and then everything, in its order. @returns of which there was something before */
  private async feed(
    db: pg.PoolClient,
    ids: readonly number[],
    from: number,
    stretches: readonly Stretch[],
    into: ReadonlyMap<number, SampleSink>,
    fields: Fields = all,
  ): Promise<ReadonlyMap<number, number>> {
    const held = await this.heldAt(db, ids, from)
    for (const [id, value] of held) into.get(id)?.begin(value)
    for (const stretch of stretches) await this.draw(db, ids, stretch, into, fields)
    return held
  }

  private async draw(
    db: pg.PoolClient,
    ids: readonly number[],
    { shelf, from, to }: Stretch,
    into: ReadonlyMap<number, SampleSink>,
    fields: Fields,
  ) {
    if (shelf === 'second') return this.drawSeconds(db, ids, from, to, into)
    const span = `series = any(${idList(ids)}) and at >= ${literal(from)} and at < ${literal(to)}`
    if (shelf === 'sample') {
      const last = new LastOfEach((series, at, value) => into.get(series)!.sample(at, value))
      await copyEach(db, `select series, at, quality, number from history_sample where ${span} order by series, at, arrived`, last.row)
      return last.end()
    }
    const bucket = blankBucket()
    const { columns, read } = fields
    await copyEach(db, `select ${columns} from ${tableOf(shelf)} where ${span} order by series, at`, (row) => {
      const series = row.int4()
      read(row, bucket, tierMs[shelf])
      into.get(series)!.bucket(bucket, bucket.at + tierMs[shelf])
    })
  }

  /** Seconds where there are any; minutes without have few samples, which are drawn themselves. */
  private async drawSeconds(db: pg.PoolClient, ids: readonly number[], from: number, to: number, into: ReadonlyMap<number, SampleSink>) {
    const span = (of: string) => `${of}.series = any(${idList(ids)}) and ${of}.at >= ${literal(from)} and ${of}.at < ${literal(to)}`
    const seconds = new Map<number, { bucket: Bucket }[]>(ids.map((id) => [id, []]))
    await copyEach(db, `select ${readColumns} from history_second bucket where ${span('bucket')} order by series, at`, (row) =>
      seconds.get(row.int4())!.push({ bucket: readBucket(row) }),
    )
    const singles = new Map<number, { at: number; value: number }[]>(ids.map((id) => [id, []]))
    const last = new LastOfEach((series, at, value) => singles.get(series)!.push({ at, value }))
    await copyEach(
      db,
      `select sample.series, sample.at, sample.quality, sample.number
        from history_minute minute join history_sample sample
          on sample.series = minute.series and sample.at >= minute.at and sample.at < minute.at + interval '1 minute'
        where ${span('minute')} and minute.count <= ${denseFrom} order by sample.series, sample.at, sample.arrived`,
      last.row,
    )
    last.end()
    for (const id of ids) {
      let next = 0
      const one = singles.get(id)!
      const sink = into.get(id)!
      for (const { bucket } of seconds.get(id)!) {
        for (; next < one.length && one[next]!.at < bucket.at; next++) sink.sample(one[next]!.at, one[next]!.value)
        sink.bucket(bucket, bucket.at + tierMs.second)
      }
      for (; next < one.length; next++) sink.sample(one[next]!.at, one[next]!.value)
    }
  }
}

/** Of rows of series, time, quality and number in their order: each sample, of several of one time the one that came last. */
class LastOfEach {
  private series = 0
  private at = NaN
  private value = NaN

  constructor(private take: (series: number, at: number, value: number) => void) {}

  readonly row = (row: CopyReader) => {
    const series = row.int4()
    const at = row.time()
    if (series !== this.series || at !== this.at) this.end()
    this.series = series
    this.at = at
    const code = row.int4()
    this.value = goodNumber(row.float8(), code)
  }

  end() {
    if (!Number.isNaN(this.at)) this.take(this.series, this.at, this.value)
  }
}

const readStock = async (db: pg.PoolClient): Promise<Stock> => {
  const state = await db.query<{ minutes: Date | null; hours: Date | null }>(
    'select min(minutes_to) as minutes, min(hours_to) as hours from history_state where not far',
  )
  const tables = shelves.map(tableOf)
  const parts = await db.query<{ name: string }>(
    'select child.relname as name from pg_inherits join pg_class child on child.oid = inhrelid join pg_class parent on parent.oid = inhparent where parent.relname = any($1)',
    [tables],
  )
  const oldest: Stock['oldest'] = { sample: Infinity, second: Infinity, minute: Infinity, hour: Infinity }
  for (const { name } of parts.rows) {
    const part = partCalled(name)
    if (part) oldest[part.shelf] = Math.min(oldest[part.shelf], part.from)
  }
  const { minutes, hours } = state.rows[0]!
  return { oldest, minutesTo: minutes?.getTime() ?? 0, hoursTo: hours?.getTime() ?? 0 }
}
