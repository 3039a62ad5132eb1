import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { Alarms } from '#engine/alarms/alarms'
import { TagTable } from '#engine/table/tagTable'
import { TagRegister } from '#engine/tags/tagRegister'
import { tagDraft } from '#shared/tags'
import { memoryJournal } from '../support/modbusSession'
import { alarmsOf } from '../support/alarmsOf'
import { until } from '../support/until'

/** What comes while it is still being read what was an alarm before. */

let folder: string
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'alarms-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

const begun = () => {
  const table = new TagTable()
  const tags = new TagRegister(table)
  const told: string[] = []
  const alarms = new Alarms({ table, tags, journal: memoryJournal(), folder, keep: () => {} })
  alarms.listen(({ turn, value }) => told.push(`${turn} ${value}`))
  const limits = [{ kind: 'high', at: 80 }]
  const draft = tagDraft.parse({ path: 'tank/level', source: { kind: 'memory', start: 0 }, type: 'float64', limits })
  const tag = tags.set({ ...draft, id: 1, revision: 1 })
  const set = (value: number) => {
    table.set(tag.handle, value, quality.Good, Date.now(), Date.now())
    table.flush()
  }
  return { alarms, tag, set, told }
}

it('misses no peak', async () => {
  const { alarms, tag, set, told } = begun()
  alarms.tagsChanged([tag], [])
  for (const value of [85, 50, 97, 60]) set(value)
  await until(() => told.length === 4)
  expect(told).toEqual(['raised 85', 'over 50', 'raised 97', 'over 60'])
  set(99)
  await until(() => told.length === 5)
  await alarms.close()
})

it('ends what was an alarm and is none any more', async () => {
  const before = begun()
  before.alarms.tagsChanged([before.tag], [])
  before.set(85)
  await until(() => before.told.length === 1)
  await before.alarms.close()
  const { alarms, tag, set, told } = begun()
  // its tag is there sooner than what was kept
  alarms.tagsChanged([tag], [])
  set(50)
  await until(() => alarmsOf(alarms).length === 1 && !alarmsOf(alarms)[0]!.active)
  expect(told).toEqual(['over 50'])
  await alarms.close()
})
