import { BacnetDevice } from '../../standins/bacnet/device'
import { real } from '../../standins/bacnet/objects'

/** A device of 1,000 objects in a process of its own: each request is answered 1 ms after it came, with other values each time. */
const turnaroundMs = 1
const device = new BacnetDevice({ instance: 7, name: 'Bench', vendor: 'Harrow Air Works', model: 'B-1' })
const objects = Array.from({ length: 1000 }, (_, i) => device.add({ type: 0, instance: i + 1, name: `Point ${i + 1}`, value: real(0) }))
device.transport.delayMs = turnaroundMs
let count = 0
const { emit } = device.transport
device.transport.emit = (event: string, ...rest: unknown[]) => {
  count++
  for (const object of objects) object.set(real(count & 0xffff))
  return emit.call(device.transport, event, ...rest)
}
process.send?.(await device.listen(0))
process.once('disconnect', () => process.exit(0))
