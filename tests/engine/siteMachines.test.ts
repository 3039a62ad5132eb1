import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { closeAll, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { machineFor } from '../support/farNodes'
import { siteOfMachines, twoMasters, watched, type OneMachine } from '../support/siteMachines'
import { until } from '../support/until'

/** Several machines of one site: processes of their own over one database, and a device that knows who asked it when. */

const closing: Closing = []
let site: Awaited<ReturnType<typeof siteOfMachines>>
let first: OneMachine
let second: OneMachine
beforeAll(async () => {
  site = await siteOfMachines(closing, ['harbour-a', 'harbour-b'])
  ;[first, second] = site.machines as [OneMachine, OneMachine]
})
afterAll(() => closeAll(closing))

const waitMs = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/** Which machine leads, as one of them tells, once the device is read again and the others stand by. */
const leads = (seenBy: OneMachine, leader: OneMachine, others = 1) =>
  until(
    async () => {
      const status = await seenBy.status()
      return { name: status?.lead?.name, flow: status?.links[0]?.flow, others: status?.lead?.canHandOver.length }
    },
    (seen) => seen.name === leader.name && seen.flow === 'flowing' && seen.others === others,
    60,
  )

/** How long the device was asked by nobody, at most, since then, ms. */
const longestSilence = (since: number) => {
  const times = site.asked.flatMap(({ at }) => (at >= since ? [at] : []))
  return Math.max(...[...times, Date.now()].map((at, i) => at - (times[i - 1] ?? since)))
}

describe('what is placed on a machine', () => {
  const metersOf = async () => {
    const meters = await metersFor(closing)
    return { meters, asked: watched(meters.gateway) }
  }
  /** Whether a tag of a link on a machine has a good value, by the machine that leads. */
  const isGood = (tag: number) => async () => {
    const seen = (await first.ask((engine) => Promise.resolve(engine.valuesOf([tag]))).catch(() => null)) ?? []
    return seen[0]?.quality === 0 && Date.now() - seen[0].seenAt < 2000
  }

  it('runs there while it stands by and while it leads; and a node without a database finds whoever leads', async () => {
    const [here, far] = [await metersOf(), await metersOf()]
    const outer = await changeConfiguration(site.database.db, 'test', 'A node', (editor) =>
      editor.insert('node', [{ name: 'Outer quay', note: '', key: null, standsBy: false, door: null }]),
    )
    const outerId = outer.result[0]!.id
    const { result: tags } = await changeConfiguration(site.database.db, 'test', 'Placed', async (editor) => {
      const made: number[] = []
      for (const [name, meters, nodeId] of [
        ['On harbour-b', here.meters, site.nodes[0]!],
        ['On the outer quay', far.meters, outerId],
      ] as const) {
        const [link] = await editor.insert('link', [{ ...linkTo(meters.port, { name }), nodeId }])
        const [tag] = await editor.insert('tag', [powerTag(link!.id, `${name.toLowerCase().replaceAll(' ', '-')}/power`)])
        made.push(tag!.id)
      }
      return made
    })
    const code = await until(
      () => first.ask((engine) => engine.makeNodeCode(outerId, 15, 'ada')),
      ({ ok }) => ok,
    )
    await machineFor(closing, code.ok ? code.value.code : '')
    for (const tag of tags) await until(isGood(tag))
    for (const [to, node] of [
      [second, site.nodes[0]!],
      [first, site.firstNode],
    ] as const) {
      await first.ask((engine) => engine.handOver(node, 'ada'))
      await leads(first, to)
      for (const tag of tags) await until(isGood(tag))
    }
    expect(twoMasters(here.asked)).toEqual([])
    expect(twoMasters(far.asked)).toEqual([])
  })
})

describe('a site of two machines', () => {
  it('is seen and used from the web side of either', async () => {
    await leads(first, first)
    await leads(second, first)
    const [value] = await second.ask(async (engine) => engine.valuesOf([site.tag.id]))
    expect(value).toMatchObject({ id: site.tag.id })
  })

  it('is handed over, and back', async () => {
    const since = Date.now()
    for (const [to, node] of [
      [second, site.nodes[0]!],
      [first, site.firstNode],
    ] as const) {
      await site.database.db.updateTable('site_lead').set({ wish: node }).execute()
      await leads(first, to)
      await leads(second, to)
    }
    expect(longestSilence(since)).toBeLessThan(10_000)
    expect(twoMasters(site.asked)).toEqual([])
  })

  it('goes on without its database as long as both hear each other, and stops where the other one is silent as well', async () => {
    const fence = (await first.status())!.lead!.fence
    first.cable.hold()
    second.cable.hold()
    const held = await until(
      async () => (await first.status())?.lead?.holdsBy,
      (by) => by === 'promise',
      20,
    )
    expect(held).toBe('promise')
    const since = Date.now()
    await waitMs(8000)
    expect(longestSilence(since)).toBeLessThan(1000)
    second.signal('SIGSTOP')
    await waitMs(4500)
    const silentSince = Date.now()
    await waitMs(2000)
    expect(site.asked.filter(({ at }) => at >= silentSince)).toEqual([])
    second.signal('SIGCONT')
    for (const { cable } of [first, second]) {
      cable.cut()
      cable.letGo()
    }
    const lead = await until(async () => (await second.status())?.lead, Boolean, 30)
    expect(lead!.fence).toBeGreaterThan(fence)
    expect(twoMasters(site.asked)).toEqual([])
  })

  it('is led by the other one when only the first does not reach the database for long', async () => {
    await until(
      async () => (await first.status())?.lead?.canHandOver.length,
      (count) => count === 1,
      60,
    )
    const [leader, other] = (await first.status())!.lead!.name === first.name ? [first, second] : [second, first]
    leader.cable.hold()
    await leads(other, other, 1)
    leader.cable.cut()
    leader.cable.letGo()
    expect(twoMasters(site.asked)).toEqual([])
  })

  it('is led by the other one when the first stands still, which says no more word to the device when it goes on', async () => {
    await until(
      async () => (await first.status())?.lead?.canHandOver.length,
      (count) => count === 1,
      60,
    )
    const [leader, other] = (await first.status())!.lead!.name === first.name ? [first, second] : [second, first]
    const stoppedAt = Date.now()
    leader.signal('SIGSTOP')
    await leads(other, other, 0)
    expect(longestSilence(stoppedAt)).toBeLessThan(10_000)
    leader.signal('SIGCONT')
    await leads(leader, other)
    expect(twoMasters(site.asked)).toEqual([])
  })

  it('is led by the other one when the first is switched off', async () => {
    const [leader, other] = (await first.status())!.lead!.name === first.name ? [first, second] : [second, first]
    const offAt = Date.now()
    await leader.stop('SIGKILL')
    await leads(other, other, 0)
    expect(longestSilence(offAt)).toBeLessThan(10_000)
    expect(twoMasters(site.asked)).toEqual([])
  })
})
