import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { allFrames, wordsOf } from '#core/traffic/filter'
import { useTrafficDesk } from '~/composables/useTrafficDesk'
import { deskCalls, type RemoteDesk } from '~/traffic/remote'

/** A desk in this thread; what goes to it and comes back is copied, as it is on the way to a worker. */
const startDesk = () => {
  const { desk, calls } = deskCalls({ frames: 1000, bytes: 100_000 })
  const remote = Object.fromEntries(
    Object.entries(calls).map(([name, call]) => [
      name,
      (...given: unknown[]) => {
        const copies = structuredClone(given)
        while (desk.work(50));
        const answer: unknown = (call as (...given: unknown[]) => unknown)(...copies)
        return Promise.resolve(structuredClone(answer))
      },
    ]),
  )
  return { desk: remote as unknown as RemoteDesk, close: vi.fn() }
}

const request = (n: number, unit: number) => Uint8Array.of(0, n, 0, 0, 0, 6, unit, 3, 0, 40, 0, 1)
beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

it('hands filters on that were changed part by part, opens frames, and ends with the page', async () => {
  const started = startDesk()
  const { mounted, here } = await mountedDesk(() => started)
  await here.desk.take(
    [{ id: 1, here: '', peer: '10.8.0.4:502', kind: 'modbus-tcp', asks: true }],
    [11, 12, 11].map((unit, n) => ({ at: n, connection: 1, out: true, length: 12, bytes: request(n, unit) })),
  )
  here.filter.value = { ...here.filter.value, words: wordsOf('holding') }
  here.filter.value = { ...here.filter.value, field: { name: 'unit', means: '11' } }
  await vi.advanceTimersByTimeAsync(300)
  expect([here.state.value?.shown, here.rows.value.map(({ n }) => n)]).toEqual([2, [0, 2]])
  here.filter.value = allFrames
  await vi.advanceTimersByTimeAsync(300)
  expect(here.state.value?.shown).toBe(3)
  await here.open(1)
  expect(here.opened.value).toMatchObject({ n: 1, summary: 'read holding/40 of unit 12' })
  await here.clear()
  expect([here.opened.value, here.state.value?.shown]).toEqual([null, 0])
  mounted.unmount()
  expect(started.close).toHaveBeenCalledOnce()
})

const mountedDesk = async (start: () => ReturnType<typeof startDesk>) => {
  let here!: ReturnType<typeof useTrafficDesk>
  const mounted = mount({
    setup: () => {
      here = useTrafficDesk(start)
      return () => null
    },
  })
  await vi.advanceTimersByTimeAsync(150)
  return { mounted, here }
}
