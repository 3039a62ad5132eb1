import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { fault } from '#core/faults/catalogue'
import type { ShownConcern, UpkeepState } from '#shared/upkeep'
import ConcernList from '~/components/upkeep/ConcernList.vue'
import DiskRoom from '~/components/upkeep/DiskRoom.vue'

const global = {
  stubs: {
    NuxtLink: { props: ['to'], template: '<a :href="to"><slot /></a>' },
    PipeGlyph: { props: ['flow', 'text'], template: '<i :data-flow="flow">{{ text }}</i>' },
  },
}

const concern = (more: Partial<ShownConcern>): ShownConcern => ({
  ...{ key: 'backup', urgency: 'soon', about: 'Backup', by: null, since: Date.UTC(2026, 10, 30), place: '/site/upkeep' },
  fault: fault('upkeep.no-backup', { days: 40, revisions: 3 }),
  ...more,
})

it('concerns say what it is, by when, and what to do once one is opened', async () => {
  const ends = fault('upkeep.ends', { kind: 'token', name: 'Report', until: Date.UTC(2026, 11, 20), isOver: false })
  const concerns = [
    concern({ key: 'disk', urgency: 'now' }),
    concern({ key: 'token', place: '/site/people', by: Date.UTC(2026, 11, 20), fault: ends }),
  ]
  const page = mount(ConcernList as never, { global, props: { concerns } as never })
  const [, first, second] = page.findAll('tr')
  expect(first!.text()).toMatch(/at once.*Backup.*The last backup is 40 days old.*now/)
  expect(second!.text()).toMatch(/before long.*“Report” ends on 2026-12-20.*2026-12-20/)
  expect(page.text()).not.toContain('give it to the program')
  await second!.trigger('click')
  expect(page.text()).toMatch(/give it to the program.*on this machine/)
  expect(second!.find('button').attributes('aria-expanded')).toBe('true')
  await second!.find('button').trigger('click')
  expect(page.text()).not.toContain('give it to the program')
})

const disk: UpkeepState['disks'][number] = {
  ...{ name: '/var/lib/keen-conduit', bytes: 40e9, freeBytes: 10e9, stage: 'well', shortAt: null },
  marks: { low: 6e9, short: 2e9, critical: 0.8e9 },
}
const room = (more: Partial<UpkeepState['disks'][number]>) =>
  mount(DiskRoom as never, { global, props: { disk: { ...disk, ...more } } as never })

it('a disk says how full it is, when it is short, and what happens by itself at which level', () => {
  const page = room({})
  expect(page.text()).toMatch(
    /10 GB of 40 GB free.*does not fill, or it is too early to tell.*below 6\.0 GB free.*below 2\.0 GB: the oldest/,
  )
  expect(page.find('.used').attributes('style')).toContain('75%')
  expect(page.findAll('.level').map((level) => level.attributes('style'))).toEqual(['left: 85%;', 'left: 95%;', 'left: 98%;'])
  expect(room({ shortAt: Date.UTC(2027, 0, 5) }).text()).toContain('short on 2027-01-05')
  const full = room({ stage: 'critical', freeBytes: 0.1e9, shortAt: 1 })
  expect([full.text(), full.find('i').attributes('data-flow')]).toEqual([
    expect.stringContaining('nothing is recorded') as string,
    'broken',
  ])
})
