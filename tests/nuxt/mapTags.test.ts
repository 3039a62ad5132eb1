import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { nextTick, shallowRef } from 'vue'
import { mapEntry } from '#core/modbus/map/entry'
import { useMapRows } from '~/composables/useMapRows'
import { useMapTags } from '~/composables/useMapTags'
import type { KnownTag } from '~/composables/usePlaceables'
import { FakeSocket, leave, startAnew, within } from './support'

/** What the lines of a register map show of their tags. */

beforeEach(() => {
  startAnew()
  FakeSocket.all = []
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.stubGlobal('requestAnimationFrame', (work: () => void) => work())
})
afterEach(leave)

const power = { id: 41, path: 'berth/1/power', type: 'float32' } as KnownTag
const limit = { id: 42, path: 'berth/1/limit', type: 'uint16' } as KnownTag

it('shows a value whose tag came to be known after the line was on screen, and that of another tag once the line names it', async () => {
  const map = useMapRows(() => 1)
  map.load([mapEntry.parse({ path: power.path, at: 'holding/0', type: 'float32' })])
  const tags = shallowRef<KnownTag[] | null>(null)
  const lines = within(() => useMapTags(map.rows, tags))
  const socket = FakeSocket.all[0]!
  socket.open()
  lines.rest([map.rows.value[0]!.id])
  await nextTick()
  tags.value = [power, limit]
  await nextTick()
  expect(socket.said.at(-1)).toMatchObject({ say: 'watch', tags: [41] })
  socket.hear({
    say: 'values',
    batch: 1,
    values: [{ id: 41, value: 71.5, type: 'float32', quality: 0, sourceTime: 0, seenAt: 0 }],
    origin: null,
  })
  expect(lines.valueOf(map.rows.value[0]!)?.value).toBe(71.5)
  map.cells.write([{ row: map.rows.value[0]!, column: 'path', text: limit.path }])
  await nextTick()
  expect(socket.said.at(-1)).toMatchObject({ say: 'watch', tags: [42] })
  leave()
  expect(socket.said.at(-1)).toMatchObject({ tags: [] })
})
