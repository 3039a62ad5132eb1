import { afterEach, describe, expect, it } from 'vitest'
import { isGood, quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { closeAll, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { machineFor, siteWithDoor } from '../support/farNodes'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

type Site = Awaited<ReturnType<typeof siteWithDoor>>
const untilGood = (site: Site, tag: number) =>
  until(
    () => site.engine.tags.handleOf(tag) !== undefined && isGood(site.qualityOf(tag)) && site.valueOf(tag) !== undefined,
    (good) => good,
  )

/** A site, a node with its machine, and the meters of that machine’s plant. */
const siteWithMeters = async () => {
  const site = await siteWithDoor(closing)
  const meters = await metersFor(closing)
  const machine = await machineFor(closing, site.code().code)
  const { result } = await changeConfiguration(site.base.db, 'test', 'Meters on the quay', async (editor) => {
    const [link] = await editor.insert('link', [{ ...linkTo(meters.port), nodeId: site.node.id }])
    const [tag] = await editor.insert('tag', [powerTag(link!.id, 'quay/power')])
    return { link: link!, tag: tag! }
  })
  const { link, tag } = result
  await untilGood(site, tag.id)
  return { site, meters, machine, link, tag }
}

describe('a node', () => {
  it('runs the links that are placed on it, and the site has their values', async () => {
    const { site, machine, link, tag } = await siteWithMeters()
    expect(site.valueOf(tag.id)).toBeGreaterThan(0)
    expect(machine.far.engine.link(link.id)?.isElsewhere).toBe(false)
    await until(
      () => [site.status().flow, site.engine.status().links[0]?.flow],
      ([node, its]) => node === 'flowing' && its === 'flowing',
    )
    expect(site.engine.status().links).toMatchObject([{ id: link.id, tags: 1, goodTags: 1 }])
    expect(site.status()).toMatchObject({ isConnected: true, isBehind: false, links: 1, tags: 1, goodTags: 1, notInForceCount: 0 })
  })

  it('that is away leaves no good value behind, and comes again by itself', async () => {
    const { site, machine, link, tag } = await siteWithMeters()
    await machine.close()
    await until(
      () => site.qualityOf(tag.id),
      (code) => code === quality.BadNoCommunication,
    )
    expect(site.engine.status().links[0]).toMatchObject({ id: link.id, flow: 'broken', fault: { code: 'node.away' } })
    const again = await machineFor(closing, '', machine.stateFolder)
    expect(again.identity.node).toBe(site.node.id)
    await untilGood(site, tag.id)
  })
})
