import { once } from 'node:events'
import { Pool } from 'undici'
import { forkBundled } from './child'
import { perSecond, times, type Section } from './report'
import { tagCount } from './webTags'

const seconds = 4
const rounds = 3
const connections = 20

type Ask = (pool: Pool, i: number) => Promise<unknown>

const one: Ask = async (pool, i) => {
  const { body } = await pool.request({ method: 'GET', path: `/tags/berth/${i % tagCount}/power` })
  await body.dump()
}
const paths = Array.from({ length: 1000 }, (_, i) => `berth/${i}/power`)
const thousand: Ask = async (pool) => {
  const headers = { 'content-type': 'application/json' }
  const { body } = await pool.request({ method: 'POST', path: '/tags/read', headers, body: JSON.stringify({ paths }) })
  await body.dump()
}

const run = async (isOurs: boolean, ask: Ask): Promise<number> => {
  const child = await forkBundled('web.ts', isOurs ? { CONDUIT_BENCH_OURS: '1' } : {})
  const [port] = (await once(child, 'message')) as [number]
  const pool = new Pool(`http://127.0.0.1:${port}`, { connections })
  let count = 0
  const until = (end: number) =>
    Promise.all(
      Array.from({ length: connections }, async () => {
        while (performance.now() < end) await ask(pool, count++)
      }),
    )
  await until(performance.now() + 1000)
  const [before, began] = [count, performance.now()]
  await until(began + seconds * 1000)
  const rate = (count - before) / ((performance.now() - began) / 1000)
  await pool.destroy()
  child.kill()
  return rate
}

/** Turn and turn about, and the middle. */
const both = async (ask: Ask) => {
  const [ours, plain]: [number[], number[]] = [[], []]
  for (let i = 0; i < rounds; i++) {
    plain.push(await run(false, ask))
    ours.push(await run(true, ask))
  }
  const middle = (all: number[]) => all.sort((a, b) => a - b)[1]!
  return { ours: middle(ours), plain: middle(plain) }
}

export const webCase = async (): Promise<Section> => {
  const rows = []
  for (const { what, ask } of [
    { what: 'reads of one tag', ask: one },
    { what: 'reads of 1,000 tags at once', ask: thousand },
  ]) {
    const { ours, plain } = await both(ask)
    rows.push({ what, ours: perSecond(ours), plain: perSecond(plain), ratio: times(ours / plain), aim: 'at least 0.8' })
  }
  return {
    title: 'Tags read over HTTP',
    how: 'Requests a second over 20 connections, 10,000 tags, the middle of three. Ours looks at who asks, at rights, limits and the tag table each time. Plain: a bare `fastify` that answers from a map of ready objects.',
    rows,
  }
}
