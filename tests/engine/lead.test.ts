import { afterEach, describe, expect, it, vi } from 'vitest'
import { Lead, type Led, type LeadTiming } from '#engine/lead/lead'
import { closeAll, databaseFor, type Closing } from '../support/engineOn'
import { relayTo } from '../support/relay'
import { until } from '../support/until'

/** The row by which one of several machines leads, in the real database; several machines in one process, with short times. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const timing: LeadTiming = { holdMs: 800, renewEveryMs: 100, marginMs: 100, lookEveryMs: 25, askMs: 300, patienceMs: 2500 }

type Base = Awaited<ReturnType<typeof databaseFor>>

/** One machine that wants to lead, with its way to the database. */
const machine = async (base: Base, node: number, more: { ended?: string; run?: string; mayLead?: boolean; word?: boolean } = {}) => {
  const url = new URL(base.url)
  const cable = await relayTo(Number(url.port))
  closing.push(() => cable.close())
  url.port = String(cable.port)
  const led: Led[] = []
  const lost: string[] = []
  const asked: number[] = []
  const may = { lead: more.mayLead ?? true }
  const lead = new Lead({
    ...{ databaseUrl: url.href, node, name: `harbour-${node}`, run: more.run ?? `run of ${node}`, ended: more.ended ?? null, timing },
    mayLead: () => Promise.resolve(may.lead),
    promised: () => Promise.resolve(more.word ?? false),
    led: (one) => led.push(one),
    lost: (why) => lost.push(why),
    asked: (other) => asked.push(other),
  })
  closing.push(() => lead.close())
  lead.start()
  return { lead, cable, led, lost, asked, may }
}
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const row = ({ db }: Base) => db.selectFrom('site_lead').selectAll().executeTakeFirstOrThrow()

describe('who leads', () => {
  it('is the first that comes, as long as it renews; the next one knows when it was last there', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    expect(first.led).toEqual([{ fence: 1, isOther: false, before: '', leaderAliveAt: null }])
    const second = await machine(base, 2)
    await wait(2000)
    expect(second.led).toEqual([])
    expect(second.lead.leader).toEqual({ node: 1, name: 'harbour-1' })
    const goneAt = Date.now()
    await first.lead.close()
    await until(() => second.lead.isHeld)
    expect(Date.now() - goneAt).toBeGreaterThanOrEqual(timing.holdMs)
    expect(second.led).toMatchObject([{ fence: 2, isOther: true, before: 'harbour-1' }])
    expect(Math.abs(second.led[0]!.leaderAliveAt! - goneAt)).toBeLessThan(500)
  })

  it('stops by its own clock before anybody else may, when it does not reach the database', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    const second = await machine(base, 2)
    const times = { stopped: 0, led: 0 }
    first.cable.hold()
    await until(() => {
      if (times.stopped === 0 && !first.lead.isHeld) times.stopped = performance.now()
      if (second.lead.isHeld) times.led = performance.now()
      return times.led > 0
    })
    expect(times.stopped).toBeGreaterThan(0)
    expect(times.led).toBeGreaterThanOrEqual(times.stopped)
    expect(first.lost).toMatchObject([expect.stringContaining('its lease ran out')])
  })

  it('leads on by the word of all others while the database is away, and not by less', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1, { word: true })
    await until(() => first.lead.isHeld)
    first.cable.hold()
    await until(() => first.lead.holdsBy === 'promise')
    await wait(2 * timing.holdMs)
    expect(first.lead.isHeld).toBe(true)
    first.cable.cut()
    first.cable.letGo()
    await until(() => first.lead.holdsBy === 'database')
    expect(first.lost).toEqual([])
  })

  it('is nobody who gave its word for so long, and nobody gives it who leads', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    expect(first.lead.promise(1000)).toBe(false)
    const second = await machine(base, 2)
    await until(() => second.lead.leader)
    const wordMs = 3000
    expect(second.lead.promise(wordMs)).toBe(true)
    const givenAt = performance.now()
    await first.lead.release()
    await until(() => second.lead.isHeld)
    expect(performance.now() - givenAt).toBeGreaterThanOrEqual(wordMs)
  })

  it('does not give its word for ever to one that alone does not reach the database', async () => {
    const base = await databaseFor(closing)
    const second = await machine(base, 2, { mayLead: false })
    await base.db.updateTable('site_lead').set({ run: 'of another machine', node: 1, name: 'harbour-1', fence: 1 }).execute()
    await until(() => second.lead.leader)
    expect(second.lead.promise(100)).toBe(true)
    await wait(timing.patienceMs + 200)
    expect(second.lead.promise(100)).toBe(false)
  })

  it('is at once whom it was handed over to, and another one only where that one does not come', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    const [second, third] = [await machine(base, 2), await machine(base, 3)]
    await until(() => second.lead.leader && third.lead.leader)
    await base.db.updateTable('site_lead').set({ wish: 3 }).execute()
    await until(() => first.asked.includes(3))
    await first.lead.release()
    await until(() => third.lead.isHeld, Boolean, 2)
    expect(second.led).toEqual([])
    expect((await row(base)).wish).toBeNull()
  })

  it('is at once the run after one that is known to have ended', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1, { run: 'before' })
    await until(() => first.lead.isHeld)
    await first.lead.close()
    const since = performance.now()
    const again = await machine(base, 1, { run: 'after', ended: 'before' })
    await until(() => again.lead.isHeld)
    expect(performance.now() - since).toBeLessThan(timing.holdMs)
    expect(again.led).toMatchObject([{ isOther: false, leaderAliveAt: null }])
  })

  it('stays who it was when the database is put back to an older state, and ends where another one leads by it', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    await base.db.updateTable('site_lead').set({ fence: 0, run: 'long ago', node: 7, name: 'harbour-7', beat: 3 }).execute()
    await until(async () => (await row(base)).run === 'run of 1')
    expect(first.lost).toEqual([])
    expect((await row(base)).fence).toBeGreaterThan(1)
    await base.db.updateTable('site_lead').set({ fence: 50, run: 'another', node: 7, name: 'harbour-7' }).execute()
    await until(() => first.lost.length > 0)
    expect(first.lost).toEqual(['“harbour-7” leads now'])
    expect(first.lead.isHeld).toBe(false)
  })

  it('is nobody who may not, and whoever may once it may', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1, { mayLead: false })
    await wait(500)
    expect(first.led).toEqual([])
    first.may.lead = true
    await until(() => first.lead.isHeld)
  })

  it('is told by no clock that is set', async () => {
    const base = await databaseFor(closing)
    const first = await machine(base, 1)
    await until(() => first.lead.isHeld)
    const second = await machine(base, 2)
    await until(() => second.lead.leader)
    const real = Date.now
    const now = vi.spyOn(Date, 'now')
    try {
      for (const jump of [3_600_000, -7_200_000]) {
        now.mockImplementation(() => real() + jump)
        await base.db
          .updateTable('site_lead')
          .set({ renewed: new Date(real() + jump) })
          .execute()
        await wait(1200)
        expect([first.lead.isHeld, second.led.length, first.lost.length]).toEqual([true, 0, 0])
      }
    } finally {
      now.mockRestore()
    }
  })
})
