import { mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import type { Alarm } from '#shared/alarms'
import AlarmRow from '~/components/alarms/AlarmRow.vue'

const alarm: Alarm = {
  ...{ key: '17/high', tagId: 17, path: 'tank/level', limit: 'high', severity: 'trouble', text: 'high: above 80 %, 85 %' },
  ...{ active: true, since: Date.UTC(2026, 2, 1), over: null, value: '85', count: 1, seen: null, comment: null, isUnknown: false },
}
const link = { props: ['to'], template: '<a :href="to"><slot /></a>' }
const global = { stubs: { 'v-btn': { template: '<button><slot /></button>' }, NuxtLink: link } }
const row = (more: Partial<Alarm> = {}, props: object = {}) =>
  mount(AlarmRow as never, {
    global,
    props: { alarm: { ...alarm, ...more }, chosen: false, mayOperate: true, since: '5 s ago', over: '', seenSince: '', ...props } as never,
  })

it('says what is an alarm, since when, and takes that it was seen', async () => {
  const page = row()
  expect(page.text()).toMatch(/active.*trouble.*tank\/level.*high: above 80 %, 85 %.*5 s ago/)
  expect(page.findAll('a').map((a) => a.attributes('href'))).toEqual(['/tags?tag=17', '/trends?tags=17'])
  await page.find('input').setValue(true)
  expect(page.emitted('choose')).toEqual([[true]])
  const [acknowledge, comment] = page.findAll('button')
  await acknowledge!.trigger('click')
  await comment!.trigger('click')
  expect([page.emitted('acknowledge'), page.emitted('comment')]).toEqual([[[]], [[]]])
})

it('offers nothing to those who may only look, and nothing more of what was seen', () => {
  const looked = row({}, { mayOperate: false })
  expect([looked.findAll('input').length, looked.findAll('button').length]).toEqual([0, 0])
  expect(looked.text()).toContain('nobody yet')
  const seen = row({ seen: { by: 'maren', at: 1 }, comment: { text: 'Pump 2 runs', by: 'maren', at: 1 } }, { seenSince: '2 min ago' })
  expect(seen.findAll('input')).toHaveLength(0)
  expect(seen.text()).toMatch(/maren.*2 min ago.*Pump 2 runs.*change/)
  const unknown = row({ isUnknown: true, count: 3 })
  expect(unknown.text()).toMatch(/active, value unknown.*3 times/)
})

it('is drawn anew only where it says something else', async () => {
  const page = row()
  const drawn = vi.fn()
  const instance = (page.vm as unknown as { $: { update: () => void } }).$
  const update = instance.update
  instance.update = () => {
    drawn()
    update()
  }
  await page.setProps({ since: '5 s ago', chosen: false } as never)
  expect(drawn).not.toHaveBeenCalled()
  await page.setProps({ since: '6 s ago' } as never)
  expect(drawn).toHaveBeenCalledOnce()
  expect(page.text()).toContain('6 s ago')
})
