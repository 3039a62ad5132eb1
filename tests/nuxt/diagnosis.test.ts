import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { causesOf } from '#core/diagnosis/rank'
import { fault } from '#core/faults/catalogue'
import type { PathRecord, Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'
import CausePanel from '~/components/diagnosis/CausePanel.vue'
import CheckHistory from '~/components/diagnosis/CheckHistory.vue'
import ExchangePanel from '~/components/diagnosis/ExchangePanel.vue'
import PathWaterfall from '~/components/diagnosis/PathWaterfall.vue'
import WaySides from '~/components/diagnosis/WaySides.vue'
import WhoseSide from '~/components/diagnosis/WhoseSide.vue'
import FaultNote from '~/components/FaultNote.vue'
import PipeGlyph from '~/components/PipeGlyph.vue'

/** What a stop on a path means, as a person sees it. */

const global = { components: { PipeGlyph, FaultNote }, stubs: { NuxtLink: { template: '<a><slot /></a>' }, 'v-btn': true } }
const now = Date.now()
const silent = fault('tcp.no-answer', { host: '10.8.0.4', port: 502, ms: 3000 })

const verdict = (more: Partial<Verdict> = {}): Verdict => ({
  at: now,
  step: 'port',
  causes: causesOf({
    ...{ step: 'Port', fault: silent, ms: 3000, now, lastGood: now - 60_000, address: '10.8.0.4' },
    goal: { speaks: 'Modbus TCP', host: '10.8.0.4', port: 502, carries: 'tcp', usualPort: 502 },
    route: { outcome: 'same network', by: 'eth0', from: '10.8.0.1' },
    neighbour: { place: '10.8.0.4', outcome: 'answers' },
    echo: { outcome: 'answers', ms: 1 },
    filter: { outcome: 'lets through' },
  }),
  looked: [],
  lastGood: now - 60_000,
  changes: [],
  wayRound: null,
  exchange: null,
  ...more,
})

describe('the panel of causes', () => {
  it('names the likeliest first with what to do and where, then the others, and folds what is ruled out', () => {
    const page = mount(CausePanel, { global, props: { verdict: verdict() } })
    expect(page.find('[role=alert] h2').text()).toBe('A firewall swallows TCP 502 on the way to 10.8.0.4.')
    expect(page.find('[role=alert]').text()).toContain('On 10.8.0.4')
    expect(page.findAll('[role=alert] ol li').length).toBeGreaterThan(1)
    expect(page.find('[data-cause=service-hangs]').text()).toContain('for: it worked until 60 s ago')
    expect(page.find('details').text()).toMatch(/Ruled out by what was measured: \d+/)
    expect(page.find('details').text()).toContain('is off, unplugged')
  })

  it('tells what is otherwise than before, and says so where nothing is, or where it never worked', () => {
    const changes = [{ what: 'address' as const, before: '10.8.0.4', now: '10.8.0.9' }]
    expect(
      mount(CausePanel, { global, props: { verdict: verdict({ changes }) } })
        .find('[data-change=address]')
        .text(),
    ).toContain('10.8.0.9')
    expect(mount(CausePanel, { global, props: { verdict: verdict() } }).text()).toContain(
      'Nothing that can be seen from here is otherwise now.',
    )
    expect(mount(CausePanel, { global, props: { verdict: verdict({ lastGood: null }) } }).text()).toContain('It never worked')
  })
})

describe('the waterfall', () => {
  const step = (more: Partial<CheckStep>): CheckStep => ({
    step: 'x',
    title: 'X',
    flow: 'flowing',
    evidence: '',
    ms: null,
    fault: null,
    ...more,
  })

  it('draws each step where it began and as long as it took, and none for what was not reached', () => {
    const steps = [
      step({ step: 'a', ms: 25, at: 0 }),
      step({ step: 'b', ms: 75, at: 25, flow: 'broken', fault: silent }),
      step({ step: 'c', flow: 'off', evidence: 'not reached' }),
    ]
    const rows = mount(PathWaterfall, { global, props: { steps } }).findAll('li')
    expect(rows.map((row) => row.find('.bar').exists())).toEqual([true, true, false])
    expect(rows[1]!.find('.bar').attributes('style')).toMatch(/left: 25%/)
    expect(rows[1]!.text()).toContain('10.8.0.4 does not answer')
    expect(rows[2]!.text()).toContain('not reached')
  })
})

describe('whose side', () => {
  const link = (flow: 'flowing' | 'broken') => ({
    id: 1,
    flow,
    sentence: '',
    fault: null,
    tags: 1,
    goodTags: 1,
    answerMs: null,
    requests: 0,
    failures: 0,
    connections: 1,
  })
  const outlet = (flow: 'flowing' | 'broken') => ({ id: 7, flow, sentence: '', clients: [] }) as never
  const shown = (before: 'flowing' | 'broken', past: 'flowing' | 'broken', reads = true) =>
    mount(WhoseSide, {
      global,
      props: { far: '10.8.0.4:502', link: link(before), reads, outlets: [outlet(past)], nameOf: () => 'Control room' },
    }).text()

  it('says on which side of us the break is', () => {
    expect(shown('broken', 'flowing')).toContain('The break is before us.')
    expect(shown('flowing', 'broken')).toContain('The break is past us, at Control room.')
    expect(shown('broken', 'broken')).toContain('on both sides')
    expect(shown('flowing', 'flowing')).toContain('the fault is on its side, or between')
    expect(shown('flowing', 'flowing', false)).toContain('nothing tells whether values would come')
    expect(shown('broken', 'flowing', false)).toContain('The break is before us.')
  })
})

describe('what passed, and what was checked before', () => {
  it('shows the last exchange that worked, and says where nothing passed after it', () => {
    const piece = (out: boolean) => ({
      at: now,
      connection: 1,
      peer: 'p',
      out,
      length: 2,
      bytes: Buffer.from([0x0b, 0x03]).toString('base64'),
    })
    const page = mount(ExchangePanel, {
      global: { ...global, mocks: {} },
      props: { exchange: { good: [piece(true), piece(false)], failed: [] } },
    })
    expect(page.findAll('.piece').map((row) => row.text())).toEqual([expect.stringContaining('0B 03'), expect.stringContaining('came')])
    expect(page.text()).toContain('nothing: neither a question nor an answer')
  })

  it('lists checks with why they were made, and lets one be looked at', async () => {
    const record = (n: number, more: Partial<PathRecord>): PathRecord => ({
      n,
      of: 'link',
      id: 1,
      at: now,
      ms: 5,
      why: 'asked',
      outcome: 'sound',
      steps: [],
      verdict: null,
      ...more,
    })
    const records = [record(2, {}), record(1, { why: 'failure', outcome: 'stopped', verdict: verdict() })]
    const page = mount(CheckHistory, { global, props: { records, shown: 2, of: 'link' } })
    expect(page.findAll('button').map((row) => row.text())).toEqual([
      expect.stringMatching(/all sound.*asked for/),
      expect.stringMatching(/stops at .*firewall swallows.*by itself, as it broke/),
    ])
    await page.findAll('button')[1]!.trigger('click')
    expect(page.emitted('show')).toEqual([[1]])
    expect(mount(CheckHistory, { global, props: { records: [], shown: null, of: 'bridge' } }).text()).toContain(
      'as soon as the bridge breaks',
    )
  })
})

describe('a long way', () => {
  const step = (name: string, more: Partial<CheckStep> = {}): CheckStep => ({
    ...{ step: name, title: name, flow: 'flowing', evidence: `${name} seen`, ms: 2, fault: null },
    ...more,
  })
  const link = { group: 'Meters', joint: 'link' } as const
  const broken = { flow: 'broken', fault: silent } as const

  it('folds what is sound under its heading where something stops, until somebody opens it', async () => {
    const steps = [step('Name', link), step('Port', link), step('point', { group: 'Its point', joint: 'point', ...broken })]
    const page = mount(PathWaterfall, { global, props: { steps } })
    expect(page.findAll('.step').map((row) => row.attributes('data-step'))).toEqual(['point'])
    expect(page.find('.group').text()).toMatch(/Meters.*2 steps, all sound.*4 ms/)
    await page.find('.group button').trigger('click')
    expect(page.findAll('.step').map((row) => row.find('.number').text())).toEqual(['1', '2', '3'])
    await page.setProps({ steps: steps.slice(0, 2) })
    expect(page.find('.group').text()).toBe('Meters')
  })

  it('leads from a step to the path of the thing that it is about', () => {
    const about = (subject: 'tag' | 'link' | 'recordSet') => step(subject, { joint: 'tag', about: { subject, id: 7 } })
    const page = mount(PathWaterfall, {
      global: { ...global, stubs: { NuxtLink: { props: ['to'], template: '<a :href="to"><slot /></a>' } } },
      props: { steps: [about('tag'), about('recordSet')] },
    })
    expect(page.findAll('a').map((a) => a.attributes('href'))).toEqual(['/tags/7/path', '/records/7'])
  })

  it.each([
    ['before us', [step('Port', { ...link, ...broken }), step('outlet', { joint: 'outlet' })], /^The break is before us/],
    ['past us', [step('Port', link), step('Quay outlet', { joint: 'outlet', ...broken })], /past it, at Quay outlet/],
    ['on both sides', [step('Port', { ...link, ...broken }), step('outlet', { joint: 'outlet', ...broken })], /on both sides/],
    ['here', [step('Port', link), step('double', { joint: 'tag', ...broken })], /^The break is here/],
    ['nowhere', [step('Port', link), step('outlet', { joint: 'outlet' })], /can only be measured from there/],
    ['in a bridge, nowhere', [step('It ran', { joint: 'bridge' }), step('Receipt', { joint: 'consumer' })], /what it sends is taken/],
    ['where nobody takes it', [step('Port', link), step('power', { joint: 'tag' })], /nothing takes it yet/],
  ])('says whose side it is: %s', (_, steps, sentence) => {
    const page = mount(WaySides, { global, props: { steps, running: false } })
    expect(page.find('p').text()).toMatch(sentence)
    expect(page.findAll('li')).toHaveLength(2)
    expect(
      mount(WaySides, { global, props: { steps, running: true } })
        .find('p')
        .text(),
    ).toContain('Being measured')
  })
})
