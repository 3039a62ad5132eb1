import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import BusyButton from '~/components/BusyButton.vue'
import FaultNote from '~/components/FaultNote.vue'
import ArrivedSensor from '~/components/links/ArrivedSensor.vue'
import TextField from '~/components/TextField.vue'
import { sendFolder } from '~/outlets/sendFolder'
import { answerWith, refusal, startAnew } from './support'

/** A sensor that came, as a person sees it before anybody decided. */

const link = { id: 7, name: 'Arm sensors berth 1' } as Link
const found: SensorPortFound = {
  ...{ port: 3, state: 'DEVICE_ONLINE', words: 'works', verdict: 'arrived', expected: '', events: [], tags: 0, problem: '' },
  device: { vendorId: 2641, deviceId: 1074, vendorName: 'Harrow Sensor Works', productName: 'HS-20', serialNumber: 'HS-0012' },
  described: { named: 'Surface temperature sensor', about: 'Infrared', version: 'V1.0' },
  items: [{ name: 'Temperature', about: '', address: '3:in/16+16', type: 'int16', unit: '°C', text: '42.5' }],
}
const shown = (more: Partial<SensorPortFound> = {}, mayTake = true) =>
  mount(ArrivedSensor as never, {
    global: {
      components: { BusyButton, FaultNote, TextField },
      stubs: {
        'v-btn': { template: '<button v-bind="$attrs"><slot /></button>' },
        'v-text-field': {
          props: ['modelValue', 'errorMessages'],
          template:
            '<input :value="modelValue" :title="String(errorMessages)" @input="$emit(\'update:modelValue\', $event.target.value)" />',
        },
      },
    },
    props: { link, found: { ...found, ...more }, mayTake } as never,
  })
const words = (page: VueWrapper) => page.text().replace(/\s+/g, ' ')

beforeEach(() => {
  startAnew()
  answerWith(() => ({ items: [] }))
})

describe('a sensor that arrived', () => {
  it('stands there with its name, who made it, and what it measures now', () => {
    const page = shown()
    expect(words(page)).toContain('Arrived at port 3')
    expect(page.get('h2').text()).toBe('Surface temperature sensor')
    expect(words(page)).toContain('HS-20 of Harrow Sensor Works · serial number HS-0012 · Infrared')
    expect(page.get('tbody').text()).toBe('Temperature42.5°C')
  })

  it('is taken into the folder that is proposed, or another that is typed', async () => {
    const asked = answerWith(({ method }) => (method === 'POST' ? { made: ['a/temperature'], revision: 9 } : { items: [] }))
    const page = shown()
    const field = page.get('input')
    expect((field.element as HTMLInputElement).value).toBe('arm_sensors_berth_1/surface_temperature_sensor')
    await field.setValue('berth/1/plug')
    await page.get('button').trigger('click')
    await flushPromises()
    expect(asked.find(({ method }) => method === 'POST')).toMatchObject({
      method: 'POST',
      path: '/links/7/ports/3/take',
      body: { folder: 'berth/1/plug' },
    })
    expect(page.emitted('taken')).toHaveLength(1)
  })

  it('is not taken into a folder that is none, and says why where it is refused', async () => {
    const page = shown()
    await page.get('input').setValue('berth//plug')
    expect(page.get('input').attributes('title')).toContain('has no name')
    expect(page.get('button').attributes('disabled')).toBeDefined()
    answerWith(({ method }) =>
      method === 'POST' ? refusal('entry.taken', { thing: 'tag', name: 'berth/plug/temperature' }) : { items: [] },
    )
    await page.get('input').setValue('berth/plug')
    await page.get('button').trigger('click')
    await flushPromises()
    expect(words(page)).toContain('berth/plug/temperature')
    expect(page.emitted('taken')).toBeUndefined()
  })

  it('goes to a platform with its folder, unless it does already', async () => {
    const settings = { way: {}, streams: [{ folder: 'quay', every: null }] }
    const outlet = { id: 4, revision: 11, name: 'Port cloud', kind: 'cloud-platform', on: true, settings }
    const asked = answerWith(() => outlet)
    await sendFolder(4, 'berth/1/plug', 5000)
    expect(asked.map(({ method, path }) => `${method} ${path}`)).toEqual(['GET /outlets/4', 'PUT /outlets/4'])
    expect(asked[1]!.body).toMatchObject({
      revision: 11,
      outlet: {
        name: 'Port cloud',
        settings: {
          streams: [
            { folder: 'quay', every: null },
            { folder: 'berth/1/plug', every: 5000 },
          ],
        },
      },
    })
    expect(await sendFolder(4, 'quay/lamps', null)).toBeNull()
    expect(asked).toHaveLength(3)
  })

  it('without a description asks for it; whoever may only look is asked nothing', () => {
    const page = shown({ described: null, items: [] })
    expect(words(page)).toContain('its description is not loaded')
    expect(page.get('input[type=file]').attributes('aria-label')).toBe('Description of the device at port 3')
    expect(words(page)).not.toContain('Take it')
    expect(shown({ described: null, items: [] }, false).find('button').exists()).toBe(false)
    expect(shown({}, false).find('button').exists()).toBe(false)
  })

  it('in the place of another is told as that, and may be let belong there', async () => {
    const page = shown({ verdict: 'wrong', problem: 'At port 3 belongs HT-40, and HS-20 is plugged in.' })
    expect(words(page)).toContain('Another device at port 3')
    expect(words(page)).toContain('At port 3 belongs HT-40')
    await page.get('button').trigger('click')
    expect(page.emitted('keep')).toHaveLength(1)
  })
})
