import { mount, type VueWrapper } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { httpSettings } from '#core/http/settings'
import { fault } from '#core/faults/catalogue'
import type { CheckStep } from '#shared/status'
import CheckSteps from '~/components/CheckSteps.vue'
import ExampleTree from '~/components/ExampleTree.vue'
import FaultNote from '~/components/FaultNote.vue'
import LogTable from '~/components/journal/LogTable.vue'
import OperationFields from '~/components/links/OperationFields.vue'
import PipeGlyph from '~/components/PipeGlyph.vue'

/** Components by what a person sees and presses; the package's own buttons stand in as plain ones. */
const global = { components: { FaultNote, PipeGlyph }, stubs: { 'v-btn': { template: '<button><slot /></button>' } } }

const silent = fault('modbus.silent', { host: '10.8.0.4', port: 502, unit: 11, answerMs: 1000 } as never, 'no reply to 00 01')
const buttonOf = (page: VueWrapper, text: string) => page.findAll('button').find((button) => button.text() === text)!

describe('a log table', () => {
  const entries = [
    { id: 2, at: '2026-03-01T10:00:01.000Z', fault: silent, text: 'Unit 11 is silent.' },
    { id: 1, at: '2026-03-01T10:00:00.000Z', fault: null, text: 'Switched on.' },
  ]
  const shown = (more: object = {}) =>
    mount(LogTable as never, {
      global,
      props: {
        entries,
        columns: [{ title: 'What happened' }],
        more: true,
        olderTitle: 'Older entries',
        nothing: 'Nothing here.',
        ...more,
      } as never,
      slots: { default: ({ entry }: { entry: (typeof entries)[number] }) => entry.text },
    })

  it('opens what is behind an entry by a button that says whether it is open, and closes it again', async () => {
    const page = shown()
    const buttons = page.findAll('td button')
    expect(buttons).toHaveLength(1)
    expect(buttons[0]!.attributes('aria-expanded')).toBe('false')
    await buttons[0]!.trigger('click')
    expect(buttons[0]!.attributes('aria-expanded')).toBe('true')
    expect(page.text()).toContain('no reply to 00 01')
    await page.find('tr.opens').trigger('click')
    expect(page.text()).not.toContain('no reply to 00 01')
  })

  it('asks for older entries as long as there are more, and says where there is nothing', async () => {
    const page = shown()
    await buttonOf(page, 'Older entries').trigger('click')
    expect(page.emitted('older')).toHaveLength(1)
    expect(buttonOf(shown({ more: false }), 'Older entries')).toBeUndefined()
    expect(shown({ entries: [] }).text()).toContain('Nothing here.')
  })
})

describe('the steps of a check', () => {
  const step = (more: Partial<CheckStep>): CheckStep => ({
    step: 'x',
    title: 'Name',
    flow: 'flowing',
    evidence: '',
    ms: null,
    fault: null,
    ...more,
  })

  it('say what was seen and how long it took, what failed, and what is under way', () => {
    const steps = [
      step({ step: 'name', evidence: '10.8.0.4', ms: 3 }),
      step({ step: 'answer', title: 'Answer', flow: 'broken', fault: silent }),
      step({ step: 'value', title: 'Value', flow: 'waiting' }),
    ]
    const rows = mount(CheckSteps, { global, props: { steps } }).findAll('li')
    expect(rows.map((row) => row.find('.evidence').text())).toEqual(['10.8.0.4', silent.what, 'under way'])
    expect(rows[0]!.find('.number').text()).toBe('3 ms')
    expect(rows.map((row) => row.find('svg').attributes('aria-label'))).toEqual(['flowing', 'broken', 'under way'])
  })

  it('leave the question about a stranger to whoever asks it', () => {
    const unknown = step({ flow: 'broken', fault: { ...silent, code: 'certificate.unknown' } })
    expect(mount(CheckSteps, { global, props: { steps: [unknown] } }).text()).toContain('not known here')
  })
})

describe('a pipe', () => {
  it('has a shape of its own for every state, not only a colour', () => {
    const shapes = (['flowing', 'late', 'broken', 'off', 'waiting'] as const).map(
      (flow) => mount(PipeGlyph, { props: { flow } }).find('svg').element.innerHTML,
    )
    expect(new Set(shapes).size).toBe(5)
  })
})

describe('the body of an operation', () => {
  const settings = httpSettings.parse({
    base: 'https://grid.example',
    operations: [{ name: 'report', method: 'POST', path: '/r', body: '{"kwh": 7, "berth": "2"}' }],
  })
  const form = () => {
    const operation = ref(settings.operations[0]!)
    const page = mount(OperationFields, {
      global: {
        ...global,
        components: { ExampleTree },
        stubs: { ...global.stubs, OperationTrial: true, TextField: true, ChoiceField: true, HeaderFields: true, 'v-textarea': true },
      },
      props: { modelValue: operation.value, path: 'o', settings, linkId: null, message: () => '' },
    })
    return { page, body: () => (page.props('modelValue') as { body: string }).body }
  }

  it('gets a hole where it is pressed, and is as before once that is taken back, the last first', async () => {
    const { page, body } = form()
    expect(buttonOf(page, 'Take the last one back')).toBeUndefined()
    const part = (name: string) => page.findAll('button.part').find((button) => button.text().startsWith(name))!
    await part('kwh').trigger('click')
    expect(body()).toBe('{"kwh":"{kwh}","berth":"2"}')
    await part('berth').trigger('click')
    expect(body()).toBe('{"kwh":"{kwh}","berth":"{berth}"}')
    await buttonOf(page, 'Take the last one back').trigger('click')
    await buttonOf(page, 'Take the last one back').trigger('click')
    expect(body()).toBe('{"kwh": 7, "berth": "2"}')
    expect(buttonOf(page, 'Take the last one back')).toBeUndefined()
  })
})
