import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Pane } from '#core/displays/settings'
import type { PaneContent, ShownTag } from '#shared/displays'
import type { SeriesPicture } from '#shared/history'
import type { LiveValue } from '#shared/values'
import TrendPane from '~/components/displays/TrendPane.vue'
import { displayFeed, type DisplayFeed } from '~/displays/feed'

vi.mock('vuetify', () => ({ useTheme: () => ({ current: ref({ dark: false }) }) }))
beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

const tag = (id: number | null, path: string): ShownTag => ({ named: path, id, path, type: 'float64', unit: 'kW', title: path, names: [] })
const picture = (id: number, more: Partial<SeriesPicture>): SeriesPicture => ({
  ...{ id, path: `tag ${id}`, type: 'float64', unit: 'kW', names: [], isFirst: false, drawnFrom: 'sample', at: [], values: [] },
  ...{ runs: null, since: null, gaps: [], statistics: { least: null, most: null, mean: null, samples: 0, seconds: 0 } },
  ...more,
})
const tags = new Map([tag(1, 'power'), tag(2, 'ship'), tag(3, 'never'), tag(null, 'gone')].map((one) => [one.path, one]))
const shows = { kind: 'trend' as const, of: [...tags.keys()], length: 600_000 }
const value = (id: number): LiveValue => ({ id, value: 5, type: 'float64', quality: 0, sourceTime: 1, seenAt: 1 })

const shown = async (fill: DisplayFeed['fill']) => {
  const feed: DisplayFeed = {
    ...{ tagOf: (named) => tags.get(named), valueOf: value, now: ref(0), isAway: ref(false), hasPages: true },
    fill,
  }
  const page = mount(TrendPane as never, {
    props: { pane: { id: 'a', title: '', x: 0, y: 0, w: 4, h: 4, shows } as unknown as Pane, shows } as never,
    global: { provide: { [displayFeed as symbol]: feed }, stubs: { TrendCanvas: true, FaultNote: true } },
  })
  await flushPromises()
  return page
}

it('says which of its series is not recorded: neither a line nor texts', async () => {
  const run = { from: 1, to: 9, text: 'Harrow Maid', several: 0 }
  const pictures = [picture(1, { at: [1, 2], values: [3, 4] }), picture(2, { type: 'string', runs: [run] }), picture(3, {})]
  const content: PaneContent = { kind: 'trend', from: 0, to: 10, pictures }
  const page = await shown(() => Promise.resolve(content))
  const lines = page.findAll('li').map((one) => one.text())
  expect(lines.map((text) => text.includes('not recorded'))).toEqual([false, false, true, false])
  expect(lines[3]).toContain('nothing goes by this name')
  page.unmount()
})

it('says nothing of that before it knows, and asks again', async () => {
  let asked = 0
  const page = await shown(() => (asked++, new Promise(() => {})))
  expect(page.text()).not.toContain('not recorded')
  expect(asked).toBe(1)
  page.unmount()
})
