import { protocolOf } from '#core/links/registry'
import { NoteBook } from '#core/notes/book'
import { linkContract } from '#shared/links/link'
import { pointOf } from '#shared/sources/point'
import { isFrom } from '#shared/sources/registry'
import { pointTag, type Tag } from '#shared/tags'

/** Notes on 100,000 tags of fifty units, a few of which overlap: all at once, and after one edit. */

const count = 100_000
const edits = 200
const { kind, settings } = linkContract.parse({ name: 'Meters', kind: 'modbus-tcp', settings: { host: 'meters' } })

const tags = Array.from({ length: count }, (_, i): Tag => {
  const offset = 2 * Math.floor(i / 50) + Number(i % 997 === 0)
  const point = { path: `yard/${i % 100}/unit_${i % 50}/value_${i}`, linkId: 1, address: `${1 + (i % 50)}:holding/${offset}` }
  return { ...pointTag({ ...point, type: 'float32', range: { low: 0, high: 100 } }), id: i + 1, revision: 1 }
})

const made = () =>
  new NoteBook<Tag>((tag) => {
    const spot = isFrom('point', tag) ? protocolOf(kind).spot(pointOf(tag), settings) : null
    return spot && { ...spot, place: `1 ${spot.place}` }
  })

const middle = (numbers: number[]) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)]!
const timed = (work: () => void) => {
  const start = performance.now()
  work()
  return performance.now() - start
}

let book = made()
const allMs = middle(
  Array.from({ length: 5 }, () =>
    timed(() => {
      book = made()
      book.change(tags, [])
      book.refresh()
    }),
  ),
)
const noted = [...book.noted()].length
const editMs = middle(
  Array.from({ length: edits }, (_, i) =>
    timed(() => {
      book.change([{ ...tags[i * 331]!, type: 'float64' }], [])
      book.refresh()
    }),
  ),
)

/** As one would script it: which tag has a register, and whether another one has it already. Overlaps, and nothing else. */
const plain = () => {
  const owner = new Map<string, string>()
  const found: string[] = []
  for (const tag of tags) {
    const [, unit, table, offset] = /^(\d+):(\w+)\/(\d+)$/.exec((tag.source as { address: string }).address)!
    for (let register = Number(offset); register < Number(offset) + 2; register++) {
      const key = `${unit}/${table}/${register}`
      const other = owner.get(key)
      if (other === undefined) owner.set(key, tag.path)
      else found.push(`${tag.path} overlaps ${other}`)
    }
  }
  return found.length
}
const plainMs = middle(Array.from({ length: 5 }, () => timed(plain)))

console.log(JSON.stringify({ count, noted, allMs, editMs, plainMs }))
