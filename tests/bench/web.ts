import { CallBook } from '#core/calls/callBook'
import { noAlarms, noPast } from '../support/outletTag'
import Fastify from 'fastify'
import { quality } from '#core/tags/quality'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { HttpServerSession } from '#engine/outlets/http/session'
import type { OutletTag } from '#engine/outlets/driver'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { httpServerSettings } from '#shared/outlets/httpServer'
import { freePort } from '../../launcher/ports.mjs'
import { memoryJournal } from '../support/modbusSession'
import { testSecurity } from '../support/security'
import { tagCount, valueOf } from './webTags'

/** An HTTP server in a process of its own: our outlet over a tag table, or a bare fastify that answers from a map. */
const ours = async (): Promise<number> => {
  const [port, table] = [await freePort(), new TagTable()]
  const session = new HttpServerSession({
    settings: httpServerSettings.parse({ doors: [{ port }], limits: { perMinute: 10_000_000 } }),
    ...{
      name: 'bench',
      table,
      journal: memoryJournal(),
      security: await testSecurity(),
      wire: new Wire(),
      calls: new CallBook(),
      folder: null,
    },
    ...{
      arrivals: new ArrivalBook(() => {}),
      links: () => [],
      site: () => 'Harrow Sound',
      link: () => undefined,
      equipment: () => ({ classes: [], equipment: [] }),
      alarms: noAlarms,
      past: noPast,
    },
    write: () => Promise.resolve({ ok: true as const }),
    points: { ask: () => ({ ok: false as const, problem: '' }), release: () => {}, isAlive: () => false },
  })
  const tags = Array.from({ length: tagCount }, (_, i): OutletTag => ({
    ...{ handle: table.allocate(), id: i + 1, path: `berth/${i}/power`, type: 'float64', writable: false, unit: 'kW', range: null },
    ...{ names: [], description: '' },
  }))
  session.setTags(tags, [])
  for (const [i, { handle }] of tags.entries()) table.set(handle, valueOf(i), quality.Good, Date.now())
  table.flush()
  while (session.status().flow !== 'flowing') await new Promise((resolve) => setTimeout(resolve, 10))
  return port
}

const bare = async (): Promise<number> => {
  const known = new Map(
    Array.from({ length: tagCount }, (_, i) => {
      const path = `berth/${i}/power`
      return [path, { path, type: 'float64', value: valueOf(i), time: new Date().toISOString(), quality: 'Good', unit: 'kW' }]
    }),
  )
  const server = Fastify()
  server.get<{ Params: { '*': string } }>('/tags/*', ({ params }) => known.get(params['*']))
  server.post<{ Body: { paths: string[] } }>('/tags/read', ({ body }) => ({ items: body.paths.map((path) => known.get(path)) }))
  const address = await server.listen({ port: 0, host: '127.0.0.1' })
  return Number(new URL(address).port)
}

process.once('disconnect', () => process.exit(0))
process.send!(await (process.env.CONDUIT_BENCH_OURS ? ours() : bare()))
