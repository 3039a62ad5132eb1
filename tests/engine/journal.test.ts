import { appendFileSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import pino from 'pino'
import { afterEach, describe, expect, it } from 'vitest'
import { Journal } from '#engine/journal/journal'
import { closeAll, databaseFor, stateFolderFor, type Closing } from '../support/engineOn'
import { relayTo } from '../support/relay'
import { connect } from '#db/connect'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const journalOn = async () => {
  const { url, db } = await databaseFor(closing)
  const relay = await relayTo(Number(new URL(url).port))
  closing.push(() => relay.close())
  const behind = connect(Object.assign(new URL(url), { port: String(relay.port) }).toString())
  closing.push(() => behind.destroy())
  const journal = new Journal(behind, pino({ level: 'silent' }))
  closing.push(() => journal.close())
  const texts = async () => (await db.selectFrom('journal').select('text').orderBy('id').execute()).map(({ text }) => text)
  return { journal, texts, db, behind, relay }
}

const write = { who: 'engineer', via: 'page', place: '127.0.0.1', tagId: 1 } as const

describe('the journal', () => {
  it('takes text of others with NUL, direction marks or half a character in it, and shows them', async () => {
    const { journal, texts } = await journalOn()
    journal.caution('Outlet\u0000', 'ns=1;s=a\u0000b is unknown')
    journal.note('Client', 'named \u202Egnp.exe, and \ud800')
    await journal.flush()
    expect(await texts()).toEqual(['ns=1;s=a⟨U+0000⟩b is unknown', 'named ⟨U+202E⟩gnp.exe, and ⟨U+D800⟩'])
  })

  it('drops an entry that cannot be stored alone, stores its neighbours, and says so', async () => {
    const { journal, texts } = await journalOn()
    for (let i = 0; i < 20; i++) journal.note('Test', `entry ${i}`)
    journal['table']['log']['waiting'][7]!.times = 1e12
    await journal.flush()
    const stored = await texts()
    expect(stored.filter((text) => text.startsWith('entry'))).toHaveLength(19)
    expect(stored).not.toContain('entry 7')
    expect(stored.at(-1)).toMatch(/1 entry of the journal lost: the database cannot hold it/)
    // the same again is counted into nothing that is not there
    journal.note('Test', 'entry 7')
    await journal.flush()
    expect(await texts()).toContain('entry 7')
  })

  it('keeps the newest while the database is away, in order, and counts what it had to drop', async () => {
    const { journal, texts, relay } = await journalOn()
    journal.note('Test', 'before')
    await journal.flush()
    relay.hold()
    relay.cut()
    for (let i = 0; i < 5100; i++) journal.note('Test', `entry ${i}`)
    await journal.flush()
    relay.letGo()
    relay.cut()
    await until(async () => (await texts()).some((text) => text.includes('lost')))
    const stored = await texts()
    expect(stored[1]).toBe('entry 100')
    expect(stored).toContain('entry 5099')
    expect(stored.find((text) => text.includes('lost'))).toMatch(/^100 entries of the journal lost: more came than could wait/)
  })

  it('records writes with who, from where, old and new value, also where one of them is odd', async () => {
    const { journal, db } = await journalOn()
    journal.writing({ ...write, path: 'berth/1/trip_limit', before: '1900', value: '1850' })(null)
    journal.writing({ ...write, path: 'berth/1/name', before: null, value: 'a\u0000b' })(null)
    await journal.flush()
    expect(await db.selectFrom('written').select(['who', 'path', 'before', 'value', 'ok']).orderBy('id').execute()).toEqual([
      { who: 'engineer', path: 'berth/1/trip_limit', before: '1900', value: '1850', ok: true },
      { who: 'engineer', path: 'berth/1/name', before: null, value: 'a⟨U+0000⟩b', ok: true },
    ])
  })

  it('hands on what an engine that was killed had not: what was done, what was under way, each once', async () => {
    const { db } = await databaseFor(closing)
    const path = join(stateFolderFor(closing), 'unsaved-writes.jsonl')
    const away = connect('postgres://nobody@127.0.0.1:1/none')
    closing.push(() => away.destroy())
    const killed = new Journal(away, pino({ level: 'silent' }), path)
    killed.writing({ ...write, path: 'done', before: '1', value: '2' })(null)
    killed.writing({ ...write, path: 'under way', before: '1', value: '3' })
    appendFileSync(path, '{"begun":{"key":"cut o')
    for (let start = 0; start < 2; start++) {
      const copy = readFileSync(path)
      const next = new Journal(db, pino({ level: 'silent' }), path)
      await next.flush()
      await next.close()
      expect(readFileSync(path, 'utf8')).toBe('')
      if (start === 0) writeFileSync(path, copy)
    }
    const rows = await db.selectFrom('written').select(['path', 'value', 'ok', 'fault']).orderBy('id').execute()
    expect(rows).toMatchObject([
      { path: 'done', value: '2', ok: true, fault: null },
      { path: 'under way', value: '3', ok: false, fault: { code: 'write.unknown' } },
    ])
    await killed.close()
  })

  it('does not let what waits for the database grow on disk without end', async () => {
    const path = join(stateFolderFor(closing), 'unsaved-writes.jsonl')
    const away = connect('postgres://nobody@127.0.0.1:1/none')
    const journal = new Journal(away, pino({ level: 'silent' }), path)
    for (let i = 0; i < 25_000; i++) journal.writing({ ...write, path: `tag/${i}`, before: null, value: '1' })(null)
    const lines = readFileSync(path, 'utf8').trim().split('\n')
    expect(lines.length).toBeLessThan(20_100)
    expect(lines.at(-2)).toContain('tag/24999')
    await journal.close()
    await away.destroy()
  })
})
