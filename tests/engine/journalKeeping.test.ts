import { createSocket } from 'node:dgram'
import { createServer, type Server, type Socket } from 'node:net'
import pino from 'pino'
import { sql } from 'kysely'
import { afterEach, describe, expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import { journalKeeping, type Forwarding } from '#core/journal/settings'
import { sendOnce } from '#engine/journal/forwarder'
import { Journal } from '#engine/journal/journal'
import { closeAll, databaseFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const journalOn = async () => {
  const { db } = await databaseFor(closing)
  const journal = new Journal(db, pino({ level: 'silent' }))
  closing.push(() => journal.close())
  const rows = () => db.selectFrom('journal').select(['text', 'times', 'at', 'last_at']).orderBy('id').execute()
  return { journal, db, rows }
}
const keeping = (more: object) => journalKeeping.parse(more)

describe('events in the database', () => {
  it('that happen again are one row with a count, also where the first was not stored yet', async () => {
    const { journal, rows } = await journalOn()
    for (let i = 0; i < 3; i++) journal.caution('Meters', 'Unit 4 is silent.')
    journal.note('Meters', 'Unit 5 is back.')
    await journal.flush()
    for (let i = 0; i < 4; i++) journal.caution('Meters', 'Unit 4 is silent.')
    await journal.flush()
    expect(await rows()).toMatchObject([
      { text: 'Unit 4 is silent.', times: 7 },
      { text: 'Unit 5 is back.', times: 1 },
    ])
    const [first] = await rows()
    expect(first!.last_at.getTime()).toBeGreaterThanOrEqual(first!.at.getTime())
  })

  it('are as many, as old and as much as said', async () => {
    const { journal, db, rows } = await journalOn()
    const fill = (count: number, days: number) =>
      sql`insert into journal (at, last_at, severity, source, text)
        select now() - make_interval(days => ${days}), now() - make_interval(days => ${days}), 'note', 'Test', repeat('x', 500) || i
        from generate_series(1, ${count}::int) as i`.execute(db)
    await fill(300, 40)
    await fill(2700, 1)
    await journal.keep(keeping({ most: 2900, days: null, mostMb: null }))
    expect(await rows()).toHaveLength(2900)
    await journal.keep(keeping({ most: 2900, days: 30, mostMb: null }))
    expect(await rows()).toHaveLength(2700)
    await until(async () => {
      await journal.keep(keeping({ most: 2900, days: 30, mostMb: 1 }))
      return (await rows()).length < 2700
    })
    expect((await rows()).length).toBeGreaterThan(500)
    // what is left, without the places of what went
    await sql`create table twin (like journal including all)`.execute(db)
    await sql`insert into twin (at, last_at, severity, source, text) select at, last_at, severity, source, text from journal`.execute(db)
    const { rows: size } = await sql<{ bytes: number }>`select pg_total_relation_size('twin')::float8 as bytes`.execute(db)
    expect(size[0]!.bytes / 1e6).toBeLessThan(1.3)
  })

  it('go when they are kept in memory only, and what is in memory comes to the database with a change back', async () => {
    const { journal, rows } = await journalOn()
    journal.note('Test', 'in the database')
    await journal.flush()
    await journal.keep(keeping({ where: 'memory', most: 100 }))
    expect(await rows()).toEqual([])
    for (let i = 0; i < 200; i++) journal.note('Test', `in memory ${i}`)
    journal.note('Test', 'in memory 199')
    await journal.flush()
    expect(await rows()).toEqual([])
    const kept = journal.inMemory()!.all()
    expect(kept.length).toBeLessThanOrEqual(107)
    expect(kept.at(-1)).toMatchObject({ text: 'in memory 199', times: 2 })
    await journal.keep(keeping({ where: 'database' }))
    expect(journal.inMemory()).toBeNull()
    expect((await rows()).at(-1)).toMatchObject({ text: 'in memory 199', times: 2 })
  })
})

/** A syslog receiver over TCP that reads frames by their counted octets (RFC 6587, 3.4.1). */
const streamReceiver = async (port = 0) => {
  const messages: string[] = []
  const sockets = new Set<Socket>()
  const server: Server = createServer((socket) => {
    sockets.add(socket)
    let rest = Buffer.alloc(0)
    socket.on('error', () => {})
    socket.on('data', (piece) => {
      rest = Buffer.concat([rest, piece])
      for (;;) {
        const space = rest.indexOf(' ')
        const length = Number(rest.subarray(0, Math.max(0, space)))
        if (space < 0 || rest.length < space + 1 + length) return
        messages.push(rest.subarray(space + 1, space + 1 + length).toString())
        rest = rest.subarray(space + 1 + length)
      }
    })
  })
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
  const close = () =>
    new Promise<void>((resolve) => {
      for (const socket of sockets) socket.destroy()
      server.close(() => resolve())
    })
  closing.push(close)
  return { messages, close, port: (server.address() as { port: number }).port }
}
const forwardTo = (port: number, more: Partial<Forwarding> = {}) => keeping({ forward: { host: '127.0.0.1', port, over: 'tcp', ...more } })

describe('a syslog server', () => {
  it('gets events as datagrams, as grave as it wants them', async () => {
    const received: string[] = []
    const socket = createSocket('udp4', (message) => received.push(message.toString()))
    await new Promise<void>((resolve) => socket.bind(0, '127.0.0.1', resolve))
    closing.push(() => new Promise<void>((resolve) => socket.close(() => resolve())))
    const { journal } = await journalOn()
    await journal.keep(forwardTo(socket.address().port, { over: 'udp', least: 'caution' }))
    journal.note('Meters', 'Switched on.')
    journal.trouble('Meters', 'Unit 4 is silent.', fault('tcp.refused', { host: 'a', port: 1 }))
    await until(() => received.length > 0)
    expect(received).toEqual([
      expect.stringMatching(/^<131>1 \S+ \S+ conduit \d+ Meters \[fault@32473 code="tcp\.refused"\] \ufeffMeters: Unit 4 is silent\.$/),
    ])
    expect(journal.forwarding()).toMatchObject({ sent: 1, waiting: 0, dropped: 0, fault: null, isOpen: true })
  })

  it('that goes away gets the newest once it is back, in order, and it is told how it stands meanwhile', async () => {
    const receiver = await streamReceiver()
    const { journal } = await journalOn()
    await journal.keep(forwardTo(receiver.port))
    journal.note('Test', 'before')
    await until(() => receiver.messages.length === 1)
    await receiver.close()
    await until(() => journal.forwarding()!.fault !== null)
    for (let i = 0; i < 2100; i++) journal.note('Test', `while it is away ${i}`)
    expect(journal.forwarding()).toMatchObject({ waiting: 2000, dropped: 100, isOpen: false })
    const again = await streamReceiver(receiver.port)
    await until(() => again.messages.length === 2000)
    expect(again.messages[0]).toMatch(/while it is away 100$/)
    expect(again.messages.at(-1)).toMatch(/while it is away 2099$/)
    await until(() => journal.forwarding()!.fault === null)
    expect(journal.forwarding()).toMatchObject({ waiting: 0, isOpen: true })
  })

  it('is tried with one message, and what fails is told with its reason', async () => {
    const receiver = await streamReceiver()
    const to = (port: number) => forwardTo(port).forward!
    const at = Date.now()
    const tried = { at, lastAt: at, times: 1, severity: 'note', source: 'Journal', text: 'Tried.', fault: null } as const
    await sendOnce(to(receiver.port), tried)
    await until(() => receiver.messages.length === 1)
    await receiver.close()
    await expect(sendOnce(to(receiver.port), tried)).rejects.toMatchObject({ code: 'tcp.refused' })
    const nowhere = { ...to(receiver.port), tls: { mode: 'encrypted' as const, authority: '' } }
    await expect(sendOnce(nowhere, tried)).rejects.toMatchObject({ code: 'tcp.refused' })
    await expect(sendOnce({ ...nowhere, host: 'no-such-host.invalid' }, tried)).rejects.toMatchObject({ side: 'network' })
  })
})
