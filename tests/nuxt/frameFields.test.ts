import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { decoderFor } from '#core/traffic/decode'
import FrameFields from '~/components/traffic/FrameFields.vue'

it('shows what the bytes of a frame mean, and marks a field in both while it is pointed at', async () => {
  const data = Uint8Array.from([0x1a, 0x2f, 0, 0, 0, 3, 0x0b, 0x83, 2])
  const { fields } = decoderFor('modbus-tcp')!(data, false)
  const page = mount(FrameFields, { props: { fields, data } })
  const rows = page.findAll('tbody tr')
  expect(rows[0]!.findAll('td').map((cell) => cell.text())).toEqual(['transaction', '1A 2F', '6703', 'only'])
  expect(rows.filter((row) => row.classes('wrong'))).toHaveLength(2)
  await rows[0]!.trigger('mouseenter')
  const marked = () => page.findAll('.bytes .marked').map((byte) => byte.text())
  expect(marked()).toEqual(['1A', '2F'])
  await rows[0]!.trigger('mouseleave')
  await page.findAll('.bytes span')[7]!.trigger('mouseenter')
  expect([marked(), rows[4]!.classes('marked')]).toEqual([['83'], true])
  await page.setProps({ fields, data: data.slice() })
  expect(marked()).toEqual([])
})

it('asks for only those frames whose field means the same', async () => {
  const data = Uint8Array.from([0x1a, 0x2f, 0, 0, 0, 3, 0x0b, 0x83, 2])
  const { fields } = decoderFor('modbus-tcp')!(data, false)
  const page = mount(FrameFields, { props: { fields, data } })
  await page.findAll('button.only')[3]!.trigger('click')
  expect(page.emitted('only')).toEqual([[expect.objectContaining({ name: 'unit', means: '11' })]])
})
