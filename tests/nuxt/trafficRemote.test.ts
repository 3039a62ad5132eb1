import { expect, it } from 'vitest'
import { deskCalls } from '~/traffic/remote'

/** The desk as a page asks it: files go to it unread, and what it saves comes back unread. */

const request = (n: number, unit: number) => Uint8Array.of(0, n, 0, 0, 0, 6, unit, 3, 0, 40, 0, 1)
const meter = { id: 1, here: '10.8.0.1:50100', peer: '10.8.0.4:502', kind: 'modbus-tcp', asks: true }
const started = () => deskCalls({ frames: 1000, bytes: 100_000 })

/** A capture of so many requests to a unit, as it lies on a disk; it is there when it is read, and not before. */
const saved = async (count: number, unit: number) => {
  const { desk, calls } = started()
  calls.take(
    [meter],
    Array.from({ length: count }, (_, n) => ({ at: 1_790_000_000_000 + n, connection: 1, out: true, length: 12, bytes: request(n, unit) })),
  )
  while (desk.work(50));
  return calls.save('pcapng', 'Berth meters')
}
const later = async (file: Blob) => {
  const bytes = await file.arrayBuffer()
  let ready!: () => void
  const waiting = new Promise<void>((resolve) => (ready = resolve))
  return { file: { arrayBuffer: () => waiting.then(() => bytes) } as Blob, ready: () => ready() }
}

it('reads a file that it saved', async () => {
  const { desk, calls } = started()
  await calls.openFile(await saved(3, 11), null)
  while (desk.work(50));
  expect(calls.look(0, 10)).toMatchObject({ state: { shown: 3, problem: null }, rows: [{ summary: 'read holding/40 of unit 11' }, {}, {}] })
})

it('shows the file that was chosen last, also where an earlier one takes longer to read', async () => {
  const { desk, calls } = started()
  const slow = await later(await saved(3, 11))
  const first = calls.openFile(slow.file, null)
  await calls.openFile(await saved(5, 12), null)
  slow.ready()
  await first
  while (desk.work(50));
  expect(calls.look(0, 10)).toMatchObject({ state: { shown: 5 }, rows: [{ summary: 'read holding/40 of unit 12' }, {}, {}, {}, {}] })
})

it('drops a file that is still being read when somebody turns to a link', async () => {
  const { desk, calls } = started()
  const slow = await later(await saved(3, 11))
  const reading = calls.openFile(slow.file, null)
  calls.renew()
  slow.ready()
  await reading
  while (desk.work(50));
  expect(calls.look(0, 10).state.shown).toBe(0)
})
