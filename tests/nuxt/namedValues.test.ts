import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { ref } from 'vue'
import type { ValueName } from '#core/tags/valueNames'
import { valueNames } from '#shared/valueNames'
import AreaField from '~/components/AreaField.vue'
import BusyButton from '~/components/BusyButton.vue'
import FaultNote from '~/components/FaultNote.vue'
import SuggestField from '~/components/SuggestField.vue'
import NamesField from '~/components/tags/NamesField.vue'
import WriteField from '~/components/tags/WriteField.vue'
import TextField from '~/components/TextField.vue'
import { startAnew } from './support'

/** What values are called, as a person types it, and writes by it. */

const names: ValueName[] = [
  { value: 1, name: 'Off' },
  { value: 3, name: 'Night' },
]
const input = {
  props: ['modelValue'],
  template: '<input :value="modelValue" @input="$emit(\'update:modelValue\', $event.target.value)" />',
}
const global = {
  components: { AreaField, BusyButton, FaultNote, SuggestField, TextField },
  stubs: { 'v-btn': { template: '<button v-bind="$attrs"><slot /></button>' }, 'v-text-field': input },
}

beforeEach(startAnew)

describe('the names of a tag', () => {
  const shown = (start: ValueName[]) => {
    const model = ref(start)
    const messageFor = (path: string) => {
      const problem = valueNames.safeParse(model.value).error?.issues.find((issue) => ['names', ...issue.path].join('.') === path)
      return problem?.message ?? ''
    }
    const page = mount(NamesField as never, {
      global,
      props: {
        ...{ modelValue: start, isTruth: false, messageFor },
        'onUpdate:modelValue': async (next: ValueName[]) => {
          model.value = next
          await page.setProps({ modelValue: next, messageFor: (path: string) => messageFor(path) } as never)
        },
      } as never,
    })
    const box = page.get('textarea')
    return { page, model, box, text: () => (box.element as HTMLTextAreaElement).value }
  }

  it('are one line, which stays as it is typed while it cannot be read, and then is nothing to save', async () => {
    const { page, model, box, text } = shown(names)
    expect(text()).toBe('1 = Off; 3 = Night')
    await box.setValue('1 = Off; Night')
    expect(text()).toBe('1 = Off; Night')
    expect(page.text()).toContain('“Night” names no value')
    expect(valueNames.safeParse(model.value).success).toBe(false)
    await box.setValue('1: Off\n3: Late at night')
    expect(text()).toBe('1: Off\n3: Late at night')
    expect(model.value).toEqual([
      { value: 1, name: 'Off' },
      { value: 3, name: 'Late at night' },
    ])
    expect(page.find('.is-broken').exists()).toBe(false)
  })

  it('say of which of them something is wrong, and are others when the tag is another', async () => {
    const { page, box, text } = shown(names)
    await box.setValue('1 = Off; 1 = On')
    expect(page.text()).toContain('1 has two names.')
    await box.trigger('blur')
    expect(page.emitted('left')!.flat()).toEqual(['names', 'names.0.value', 'names.0.name', 'names.1.value', 'names.1.name'])
    await page.setProps({ modelValue: [{ value: 0, name: 'none' }] } as never)
    expect(text()).toBe('0 = none')
  })
})

describe('writing a value that has a name', () => {
  const shown = (more: object = {}) => {
    const written: (boolean | number | string)[] = []
    const page = mount(WriteField as never, {
      global,
      props: {
        ...{ type: 'uint32', unit: '', names, holder: 'The far side', to: 7, ...more },
        write: (value: boolean | number | string) => {
          written.push(value)
          return Promise.resolve(value)
        },
      } as never,
    })
    return { page, written }
  }
  const write = async ({ page }: ReturnType<typeof shown>, words: string) => {
    await page.get('input').setValue(words)
    await page.get('form').trigger('submit')
    await flushPromises()
  }

  it('goes by the name, whatever its case, or by the number, and says both of what came back', async () => {
    const field = shown()
    await write(field, ' night ')
    expect(field.page.text()).toContain('The far side now holds 3 Night.')
    await write(field, '1 = Off')
    expect(field.page.text()).toContain('The far side now holds 1 Off.')
    await write(field, '2')
    expect(field.page.text()).toContain('The far side now holds 2.')
    expect(field.written).toEqual([3, 1, 2])
    expect(field.page.findAll('option').map((option) => option.attributes('value'))).toEqual(['1 = Off', '3 = Night'])
  })

  it('sends whole numbers of 64 bits as text, and names the two truths on their buttons', async () => {
    const wide = shown({ type: 'uint64' })
    await write(wide, 'Off')
    expect(wide.written).toEqual(['1'])
    const truth = shown({
      type: 'bool',
      names: [
        { value: 0, name: 'Locked' },
        { value: 1, name: 'Free' },
      ],
    })
    const buttons = truth.page.findAll('button')
    expect(buttons.map((button) => button.text())).toEqual(['true = Free', 'false = Locked'])
    await buttons[1]!.trigger('click')
    expect(truth.written).toEqual([false])
  })
})
