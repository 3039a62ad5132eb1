import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import type { Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { copyWith } from '../support/pairing'
import { until } from '../support/until'

/** The path check of a relay walks both halves: ours to the copy there, and that one's to its devices. */

const closing: Closing = []
afterEach(() => closeAll(closing))

type Copy = Awaited<ReturnType<typeof copyWith>>

const watchOf = ({ engine, security }: Copy) => {
  const watch = new PathWatch({ engine, security, book: new PathBook(null) })
  closing.push(() => Promise.resolve(watch.close()))
  return watch
}

it('names the device over there that does not answer, and what it comes from, as the copy there has it', async () => {
  const meters = await metersFor(closing)
  const [office, far] = await Promise.all([copyWith(closing), copyWith(closing)])
  const silent = await freePort()
  await changeConfiguration(far.database.db, 'test', 'made', async (editor) => {
    const [sound] = await editor.insert('link', [linkTo(meters.port, { name: 'Meters' })])
    await editor.insert('link', [linkTo(silent, { name: 'Pump' })])
    await editor.insert('tag', [powerTag(sound!.id, 'berth/power')])
  })
  watchOf(far)
  const offer = await office.make({ values: 'to-maker', port: await freePort(), take: { name: 'Far', folder: 'far' } })
  expect((await far.redeem(offer.code)).fault).toBe(null)
  await until(
    () => office.engine.status().links[0]?.behind?.length,
    (count) => count === 2,
  )
  const [[id, link]] = [...office.engine.allLinks()] as [[number, Parameters<PathWatch['walkLink']>[1]]]
  await until(
    () => office.engine.status().links[0]?.sentence,
    (text) => /1 of 2 links there broken/.test(text ?? ''),
  )
  let verdict: Verdict | null = null
  const watch = watchOf(office)
  const walked = async () => {
    const steps = new Map<string, CheckStep>()
    for await (const part of watch.walkLink(id, link, new AbortController().signal, 'asked'))
      if ('verdict' in part) verdict = part.verdict
      else steps.set(part.step, part)
    return steps
  }
  // on a busy machine a device may be late once
  const steps = await until(walked, (seen) => seen.get('there:Meters')?.flow === 'flowing')
  expect(steps.get('there:Meters')).toMatchObject({ flow: 'flowing', group: 'Over there' })
  expect(steps.get('there:Pump')).toMatchObject({ flow: 'broken' })
  expect(steps.get('there:Pump:port')).toMatchObject({ flow: 'broken', fault: { code: 'tcp.refused' }, group: 'There: Pump' })
  expect(steps.get('there:Meters:port')).toMatchObject({ flow: 'flowing' })
  expect(verdict).toMatchObject({
    step: 'there:Pump:port',
    causes: [{ id: 'nobody-listens' }, ...Array<object>(verdict!.causes.length - 1).fill({})],
  })
}, 120_000)
