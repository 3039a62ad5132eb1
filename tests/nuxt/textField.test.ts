import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { nextTick } from 'vue'
import TextField from '~/components/TextField.vue'

/** A field of the component library as far as this one needs it. */
const box = {
  template: '<input ref="input" />',
  methods: {
    focus(this: { $refs: { input: HTMLInputElement } }) {
      this.$refs.input.focus()
    },
  },
}
const field = (props: object) =>
  mount(TextField as never, {
    attachTo: document.body,
    global: { stubs: { 'v-text-field': box } },
    props: { modelValue: '', label: 'Name', ...props } as never,
  })

it('is ready to type in as soon as it is there, and never takes somebody out of another field later', async () => {
  const first = field({ autofocus: true })
  expect(document.activeElement).toBe(first.find('input').element)
  const other = field({ label: 'Address' })
  other.find('input').element.focus()
  await nextTick()
  await new Promise((done) => requestAnimationFrame(done))
  expect(document.activeElement).toBe(other.find('input').element)
})
