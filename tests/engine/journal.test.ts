import pino from 'pino'
import { afterEach, describe, expect, it } from 'vitest'
import { Journal } from '#engine/journal/journal'
import { closeAll, databaseFor, type Closing } from '../support/engineOn'
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

const record = { at: new Date(), who: 'engineer', via: 'page', place: '127.0.0.1', tagId: 1, ms: 3 } as const

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
    journal['entries']['waiting'][7]!.at = new Date(NaN)
    journal['entries']['waiting'][7]!.severity = null as never
    await journal.flush()
    const stored = await texts()
    expect(stored.filter((text) => text.startsWith('entry'))).toHaveLength(19)
    expect(stored).not.toContain('entry 7')
    expect(stored.at(-1)).toMatch(/1 entry of the journal lost: the database cannot hold it/)
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
    journal.written({ ...record, path: 'berth/1/trip_limit', before: '1900', value: '1850', fault: null })
    journal.written({ ...record, path: 'berth/1/name', before: null, value: 'a\u0000b', fault: null })
    await journal.flush()
    expect(await db.selectFrom('written').select(['who', 'path', 'before', 'value', 'ok']).orderBy('id').execute()).toEqual([
      { who: 'engineer', path: 'berth/1/trip_limit', before: '1900', value: '1850', ok: true },
      { who: 'engineer', path: 'berth/1/name', before: null, value: 'a⟨U+0000⟩b', ok: true },
    ])
  })
})
