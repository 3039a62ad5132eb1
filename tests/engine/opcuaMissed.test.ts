import { afterEach, describe, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { isGood, quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { pointTag, tagDraft } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { relayTo } from '../support/relay'
import { until } from '../support/until'

/** What a link missed is asked for at the far side, which recorded it (OPC 10000-11, 6.5.3): two engines, and a cable between. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const path = 'berth/power'
const inClear = { policies: ['None'], anonymous: true }
const recording = (pattern: string) => recordingContract.parse({ pattern, how: { kind: 'change' } })

/** Records what it has and dials the near side, through a cable that can be cut. */
const farSide = async (awaitedAt: number, isRecorded = true) => {
  const cable = await relayTo(awaitedAt)
  closing.push(() => cable.close())
  const database = await databaseFor(closing)
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('tag', [tagDraft.parse({ path, source: { kind: 'memory', start: 0 }, type: 'float64' })])
    if (isRecorded) await editor.insert('recording', [recording('berth/**')])
    const settings = { doors: [{ on: false }], dialled: [{ host: '127.0.0.1', port: cable.port, ...inClear }] }
    await editor.insert('outlet', [outletContract.parse({ name: 'To the office', kind: 'opcua-server', settings })])
  })
  const { engine } = await engineOn(closing, database)
  await until(() => engine.tags.byPath(path) !== undefined)
  const put = (value: number | null, at = Date.now()) => {
    const { handle } = engine.tags.byPath(path)!
    if (value === null) engine.table.degrade(handle, quality.BadSensorFailure, at)
    else engine.table.set(handle, value, quality.Good, at)
    engine.table.flush()
  }
  return { engine, cable, put }
}

const nearSide = async (awaitedAt: number) => {
  const database = await databaseFor(closing)
  const { result: linkId } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const settings = {
      awaits: { port: awaitedAt },
      reading: { publishing: 50, sampling: 20, queue: 20 },
      patience: { connect: 1000, answer: 2000, retryFirst: 100, retryMost: 400 },
    }
    const [link] = await editor.insert('link', [linkContract.parse({ name: 'Far berth', kind: 'opcua', settings })])
    await editor.insert('tag', [pointTag({ path, linkId: link!.id, address: `nsu=urn:keen-conduit:tags;s=${path}`, type: 'float64' })])
    await editor.insert('recording', [recording('berth/**')])
    return link!.id
  })
  const stateFolder = stateFolderFor(closing)
  const open = () => engineOn(closing, database, stateFolder)
  return { open, linkId }
}

type Opened = Awaited<ReturnType<typeof engineOn>>
const samplesOf = async ({ engine }: Pick<Opened, 'engine'>, from: number, to: number) =>
  (await engine.history.past.samples({ id: engine.tags.byPath(path)!.id, from, to, most: 10_000 })).map(
    ({ at, number, quality: code }) => [at, number, code] as const,
  )
const hasGood = ({ engine }: Opened, value: number) => {
  const { handle } = engine.tags.byPath(path)!
  return engine.table.values[handle] === value && isGood(engine.table.quality[handle]!)
}
/** Ends an engine before its turn. */
const closeNow = async ({ feed, engine }: Opened) => {
  await feed.close()
  await engine.close()
}
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

describe('what was missed', () => {
  it('while the cable was cut comes later, and nothing that was told of it in doubt is left; live values do not wait', async () => {
    const port = await freePort()
    const [far, side] = [await farSide(port), await nearSide(port)]
    const near = await side.open()
    far.put(1)
    await until(() => hasGood(near, 1))
    const began = Date.now()
    far.put(2)
    await until(() => hasGood(near, 2))
    far.cable.hold()
    for (let value = 10; value < 40; value++) {
      far.put(value)
      await pause(100)
    }
    far.put(null)
    await pause(50)
    far.put(50)
    far.cable.cut()
    await until(() => near.engine.link(side.linkId)?.flow !== 'flowing')
    far.cable.letGo()
    await until(() => hasGood(near, 50))
    far.put(51)
    await until(() => hasGood(near, 51))
    const ended = Date.now()
    const there = await samplesOf(far, began, ended)
    expect(there.length).toBeGreaterThan(30)
    await until(
      async () => JSON.stringify(await samplesOf(near, began, ended)) === JSON.stringify(await goneOver(near, far, began, ended)),
      Boolean,
      20,
    )
    expect(near.journal.entries.map(({ text }) => text)).toContainEqual(expect.stringMatching(/^What was missed from .* is filled in/))
  }, 90_000)

  it('while our engine was away is filled in from where its record ends', async () => {
    const port = await freePort()
    const [far, side] = [await farSide(port), await nearSide(port)]
    const before = await side.open()
    far.put(1)
    await until(() => hasGood(before, 1))
    const began = Date.now()
    await closing.pop()!()
    for (let value = 10; value < 20; value++) {
      far.put(value)
      await pause(20)
    }
    const ended = Date.now()
    const after = await side.open()
    await until(() => hasGood(after, 19))
    await until(
      async () => (await samplesOf(after, began, ended)).map(([, number]) => number),
      (numbers) => [10, 11, 12, 13, 14, 15, 16, 17, 18, 19].every((value) => numbers.includes(value)),
      20,
    )
    const late = (await samplesOf(after, began, ended)).filter(([, , code]) => !isGood(code))
    expect(late).toEqual([])
  }, 90_000)

  it('is filled in by the next engine where one ended before it came to that, whatever came live in between', async () => {
    const port = await freePort()
    const [far, side] = [await farSide(port), await nearSide(port)]
    const near = await side.open()
    far.put(1)
    await until(() => hasGood(near, 1))
    await near.engine.history.past.samples({ id: near.engine.tags.byPath(path)!.id, from: 0, to: Date.now(), most: 1 })
    far.cable.hold()
    for (let value = 10; value < 20; value++) {
      far.put(value)
      await pause(100)
    }
    await until(() => near.engine.link(side.linkId)!.flow !== 'flowing')
    far.cable.cut()
    far.cable.letGo()
    // back, and live again: what was missed would be asked for three seconds later
    far.put(20)
    await until(() => hasGood(near, 20))
    far.put(21)
    await until(() => hasGood(near, 21))
    await closeNow(near)
    const again = await side.open()
    far.put(22)
    await until(() => hasGood(again, 22))
    await until(
      () => samplesOf(again, 0, Date.now()),
      (samples) => Array.from({ length: 10 }, (_, i) => 10 + i).every((value) => samples.some(([, number]) => number === value)),
      30,
    )
    // and nothing is noted to be missing any more
    await until(
      async () => again.engine.history.gapsOf(side.linkId).missingSince(),
      (since) => since === null,
    )
  })

  it('is told to be missing where the far side keeps no record of it', async () => {
    const port = await freePort()
    const [far, side] = [await farSide(port, false), await nearSide(port)]
    const near = await side.open()
    far.put(1)
    await until(() => hasGood(near, 1))
    far.cable.cut()
    far.put(2)
    await until(() => hasGood(near, 2))
    await until(() => near.journal.entries.some(({ text }) => /cannot be filled in: .* keeps no record/.test(text)))
  }, 90_000)
})

/** What of the far record has to stand here: all of it. What stands here besides held there at that time. */
const goneOver = async (near: Opened, far: Awaited<ReturnType<typeof farSide>>, from: number, to: number) => {
  const [ours, theirs] = [await samplesOf(near, from, to), await samplesOf(far, from, to)]
  const times = new Map(theirs.map((sample) => [sample[0], sample]))
  const held = (at: number) => theirs.findLast(([time]) => time <= at)
  const missing = theirs.filter(([at]) => !ours.some(([time]) => time === at))
  return [...ours.map(([at]) => times.get(at) ?? [at, ...held(at)!.slice(1)]), ...missing]
}
