import pg from 'pg'
import { HistoryReader } from '#db/history/reader'
import { makePart, partAt } from '#db/history/parts'

/** Pictures of so many series over so many days, a sample a second, beside what one asks for in SQL. */

const [count, days, rounds] = process.env.CONDUIT_BENCH_DRAWN!.split(' ').map(Number) as [number, number, number]
const url = process.env.CONDUIT_BENCH_DATABASE!
const client = new pg.Client({ connectionString: url })
await client.connect()
await client.query('set synchronous_commit = off')

const day = 86_400_000
const midnight = Math.floor(Date.now() / day) * day
const [from, to] = [midnight - days * day, midnight]
const series = Array.from({ length: count }, (_, i) => 5001 + i)
const columns = 1200

/** Days that are over, with the buckets that the writer would have made of them. */
const record = async () => {
  for (let at = from; at < to; at += day)
    for (const shelf of ['sample', 'second', 'minute', 'hour'] as const) await makePart(client, partAt(shelf, at))
  const span = `timestamptz '${new Date(from).toISOString()}', timestamptz '${new Date(to - 1000).toISOString()}'`
  for (const id of series)
    await client.query(`insert into history_sample select ${id}, at, at, 0, 1000 + 400 * sin(extract(epoch from at) / 600) + 10 * random(), null
      from generate_series(${span}, interval '1 second') at`)
  for (const tier of ['minute', 'hour'] as const)
    await client.query(`insert into history_${tier} (series, at, count, good, min, max, sum, spread, first, last, first_at, last_at, opened_at, holds, integral, seconds)
      select series, date_trunc('${tier}', at), count(*), count(*), min(number), max(number), sum(number), var_pop(number) * count(*),
        (array_agg(number order by at))[1], (array_agg(number order by at desc))[1], min(at), max(at), min(at), true, sum(number), count(*)
      from history_sample where series = any($1) group by 1, 2`, [series]) // prettier-ignore
  await client.query(`insert into history_state values ('past', '', to_timestamp($1), to_timestamp($1))`, [midnight / 1000])
  await client.query('analyze')
}

/** The middle of some rounds, ms. */
const middleOf = async (work: () => Promise<unknown>, times: number) => {
  const found: number[] = []
  for (let i = 0; i < times; i++) {
    const began = performance.now()
    await work()
    found.push(performance.now() - began)
  }
  return found.sort((a, b) => a - b)[Math.floor(times / 2)]!
}

await record()
const reader = new HistoryReader(url)
const ours = await middleOf(() => reader.pictures(series, from, to, columns), 9)
await reader.close()
// as somebody scripts it: the least and the most of each column, by the database
const plain = await middleOf(
  () =>
    client.query(
      `select series, floor(extract(epoch from at - $2) / $4) as col, min(number), max(number) from history_sample
        where series = any($1) and at >= $2 and at < $3 group by 1, 2 order by 1, 2`,
      [series, new Date(from), new Date(to), (to - from) / 1000 / columns],
    ),
  rounds,
)
console.log(JSON.stringify({ ours, plain }))
process.exit(0)
