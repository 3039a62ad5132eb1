import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { fault } from '#core/faults/catalogue'
import { mostAside } from '#engine/bridges/aside'
import { Delivery } from '#engine/bridges/delivery'
import { Meters } from '#core/statistics/meters'
import { Spool } from '#engine/bridges/spool'
import type { Handed, Target } from '#engine/bridges/targets/target'
import { within } from '#pacing/within'
import { closeAll, type Closing } from '../support/engineOn'
import { memoryJournal } from '../support/modbusSession'
import { until } from '../support/until'

/** The way to one destination, with a receiver that a test holds up. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const deliveryTo = async (target: Pick<Target, 'deliver'>, away: { keep: 'all' | 'none'; most: number }, folder: string | null) => {
  const spool = new Spool(folder)
  await spool.open()
  const queue = spool.queue(1, 1)
  if (folder) await queue.load()
  const whole: Target = { types: () => Promise.resolve([]), preview: () => Promise.resolve([]), ...target }
  const parts = { number: 1, kind: 'tags' as const, fields: ['n'], name: 'Counting', target: whole, away: { ...away, days: null } }
  const delivery = new Delivery({ ...parts, queue, journal: memoryJournal(), meters: new Meters() })
  closing.push(async () => {
    await delivery.close()
    await spool.close()
  })
  const offer = (n: number, size = 1) => delivery.offer([{ to: ['x'.repeat(size)], values: [n], at: Date.now(), run: n }])
  return { delivery, queue, offer, spool, parts }
}
const spoolFolder = () => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-spool-'))
  closing.push(() => Promise.resolve(rmSync(folder, { recursive: true, force: true })))
  return folder
}

it('that has nothing to write is done at once', async () => {
  const store = new Spool(mkdtempSync(join(tmpdir(), 'conduit-spool-')))
  await store.open()
  await within(1000, store.settled([]))
  await within(1000, store.queue(1, 1).dropRefused([]))
  await store.close()
})

describe('the way to a destination', () => {
  it('gives up only what it says, where the limit is met while a batch is under way', async () => {
    const got: number[] = []
    let release = () => {}
    const deliver = async ({ records }: Handed) => {
      if (got.length === 0) await new Promise<void>((resolve) => (release = resolve))
      got.push(...records.map(({ run }) => run))
      return records.map(() => null)
    }
    const { delivery, queue, offer } = await deliveryTo({ deliver }, { keep: 'all', most: 1 }, spoolFolder())
    offer(1, 300_000)
    await until(() => queue.records === 1)
    for (let n = 2; n <= 5; n++) offer(n, 300_000)
    await until(() => delivery.status().dropped > 0)
    release()
    await until(() => delivery.status().kept === 0)
    const { dropped } = delivery.status()
    expect(dropped).toBeLessThan(4)
    expect(got.filter((n) => n > 1)).toEqual([2, 3, 4, 5].slice(-(5 - Math.max(1, dropped))))
  })

  it('changes the place of what is sent again in one step, so that a crash between finds it in one of them', async () => {
    let refuses = true
    const got: number[] = []
    const deliver = ({ records }: Handed) => {
      if (!refuses) got.push(...records.map(({ run }) => run))
      return Promise.resolve(records.map(() => (refuses ? fault('bridge.no-tag', { path: 'gone' }) : null)))
    }
    const { delivery, offer, spool } = await deliveryTo({ deliver }, { keep: 'all', most: 1 }, spoolFolder())
    offer(1)
    await until(() => delivery.status().refused === 1)
    const [aside] = await delivery.aside.list()
    refuses = false
    const steps = vi.spyOn(spool, 'settled')
    const twice = [delivery.aside.send([aside!.key]), delivery.aside.send([aside!.key])]
    expect(await Promise.all(twice)).toEqual([
      { settled: 1, unfit: 0 },
      { settled: 0, unfit: 0 },
    ])
    await until(() => got.length === 1)
    const [leaving] = steps.mock.calls.map(([step]) => step).filter((step) => step.some(({ key }) => key === aside!.key))
    expect(leaving!.map(({ type, key }) => `${type} ${key[0]}`)).toEqual(['put p', 'del r'])
    expect(await delivery.aside.list()).toEqual([])
    expect(delivery.status()).toMatchObject({ refused: 1, aside: 0 })
    expect(got).toEqual([1])
  })

  it('lays aside only so many, and gives up the oldest of them, counted and told', async () => {
    const deliver = ({ records }: Handed) => Promise.resolve(records.map(() => fault('bridge.no-tag', { path: 'gone' })))
    const { delivery, offer } = await deliveryTo({ deliver }, { keep: 'none', most: 1 }, spoolFolder())
    // no more at once than waits in memory
    for (let n = 1; n <= mostAside; n++) offer(n)
    await until(() => delivery.status().refused === mostAside)
    for (let n = 1; n <= 20; n++) offer(mostAside + n)
    await until(
      () => delivery.status(),
      ({ dropped }) => dropped === 20,
    )
    expect(delivery.status()).toMatchObject({ refused: mostAside + 20, aside: mostAside })
    expect((await delivery.aside.list())[0]!.parcel.records[0]!.run).toBe(21)
  })

  it('knows after a restart what lay aside before', async () => {
    const folder = spoolFolder()
    const deliver = ({ records }: Handed) => Promise.resolve(records.map(() => fault('bridge.no-tag', { path: 'gone' })))
    const before = await deliveryTo({ deliver }, { keep: 'all', most: 1 }, folder)
    before.offer(1)
    await until(() => before.delivery.status().aside === 1)
    await closeAll(closing.splice(-1))
    const after = await deliveryTo({ deliver }, { keep: 'all', most: 1 }, folder)
    expect(after.delivery.status()).toMatchObject({ refused: 0, aside: 1 })
    const [aside] = await after.delivery.aside.list()
    after.delivery.update({ ...before.parts, fields: ['m'] })
    expect(await after.delivery.aside.send([aside!.key])).toEqual({ settled: 0, unfit: 1 })
    expect(await after.delivery.aside.mend(aside!.key, [])).toBe(false)
    expect(await after.delivery.aside.drop([aside!.key])).toEqual({ settled: 1, unfit: 0 })
    expect(after.delivery.status().aside).toBe(0)
  })

  it('sends nothing twice where what was refused cannot be laid aside', async () => {
    const got: number[] = []
    const deliver = ({ records }: Handed) => {
      got.push(...records.map(({ run }) => run))
      return Promise.resolve(records.map(() => fault('bridge.no-tag', { path: 'gone' })))
    }
    const { delivery, offer } = await deliveryTo({ deliver }, { keep: 'none', most: 1 }, null)
    offer(1)
    await until(() => delivery.status().refused === 1)
    offer(2)
    await until(() => got.includes(2))
    expect(got).toEqual([1, 2])
    expect(delivery.status().fault).toMatchObject({ code: 'bridge.spool' })
  })
})
