import { FrameBook } from '#core/traffic/frameBook'
import { rawBytesIn } from '#core/traffic/rawBytes'
import { namedText } from '#core/tags/valueNames'
import { steadyNow } from '#pacing/clock'
import type { CheckEvidence } from '#shared/checks'
import type { TrafficPart } from '#shared/traffic'
import type { LinkRunner } from '../links/linkRunner'
import type { TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import type { ValueOrigin } from '#shared/values'

interface Around {
  table: TagTable
  tags: TagRegister
  link(id: number): LinkRunner | undefined
  origin(id: number): ValueOrigin | null
}

/** So long it waits for the value to be read anew; ms. */
const patienceMs = 3000
const lookEveryMs = 20
/** A value is noted a little after its frame was. */
const notedWithinMs = 20
const mostFrames = 1000
const mostOfFrame = 3072
const mostStages = 20
const bookLimits = { frames: mostFrames, bytes: 8 * 1024 * 1024 }

/**
 * How a tag is at this moment: its value, how it is made, and of a point of a link the frame that brought it and what was
 * asked. Where it is not told again in time there are no frames.
 *
 * @returns null: there is no such tag
 */
export const evidenceOf = async (tagId: number, around: Around): Promise<CheckEvidence | null> => {
  const tag = around.tags.byTagId(tagId)
  if (!tag) return null
  const link = tag.source.kind === 'point' ? around.link(tag.source.linkId) : undefined
  if (!link) return shown(tag, around)
  const { tap } = link.wire
  const begin = tap.look(tap.end, 1).next
  await readAnew(tag, around)
  const evidence = shown(tag, around)
  // where a stage says when its bytes came, that is nearer than when the value was noted
  const cameAt = around.origin(tagId)?.stages[0]?.at ?? around.table.seenAt[tag.handle]!
  return { ...evidence, frames: framesOf(link.kind, tap.look(begin, mostFrames), evidence, cameAt) }
}

/** Ends when the tag was told once more, or nobody waits any longer. */
const readAnew = async ({ handle }: RegisteredTag, { table }: Around) => {
  const [before, end] = [table.seenAt[handle], steadyNow() + patienceMs]
  while (table.seenAt[handle] === before && steadyNow() < end) await new Promise((resolve) => setTimeout(resolve, lookEveryMs))
}

const shown = ({ id, handle, names, passedOn }: RegisteredTag, around: Around): CheckEvidence => ({
  at: Date.now(),
  value: namedText(around.table.values[handle], names, passedOn).slice(0, 400),
  quality: around.table.quality[handle]!,
  stages: (around.origin(id)?.stages ?? []).slice(0, mostStages).map(({ title, text, detail, at }) => ({
    ...{
      title: clean(title, 400),
      text: clean(text, 2000),
      detail: clean(detail, 2000),
      ...(at === undefined ? {} : { at: Math.round(at) }),
    },
  })),
  frames: [],
})

const clean = (text: string, most: number) => text.replaceAll('\0', '').slice(0, most)

/**
 * Of the frames that came until the value was noted and hold its bytes the nearest to when it came, and what it answers. Where nobody
 * can tell the bytes, the nearest.
 */
const framesOf = (
  kind: string,
  { frames, connections }: TrafficPart,
  { stages }: CheckEvidence,
  cameAt: number,
): CheckEvidence['frames'] => {
  const book = new FrameBook(bookLimits)
  for (const connection of connections) book.connect({ ...connection, kind, asks: true })
  const wanted = rawBytesIn(stages[0]?.text ?? '')
  const nearest = new Nearest(cameAt)
  for (const { bytes, ...frame } of frames) {
    const whole = Buffer.from(bytes, 'base64')
    const n = book.add({ ...frame, bytes: whole })
    if (frame.out || frame.at > cameAt + notedWithinMs) continue
    if (!wanted || holds(whole, wanted)) nearest.look(n, frame.at)
  }
  const bringing = nearest.n
  if (bringing === null) return []
  const { partner } = book.row(bringing)!
  return [...(partner === null ? [] : [partner]), bringing].map((n) => frameOf(book, n))
}

/** As they are, or as JSON has them: numbers with commas between. */
const holds = (frame: Buffer, wanted: Uint8Array) => frame.includes(Buffer.from(wanted)) || frame.includes(`[${wanted.join()}`)

/** The one that lies nearest to a moment; ms. */
class Nearest {
  n: number | null = null
  private least = Infinity

  constructor(private moment: number) {}

  look(n: number, at: number) {
    const far = Math.abs(at - this.moment)
    if (far < this.least) [this.n, this.least] = [n, far]
  }
}

const frameOf = (book: FrameBook, n: number): CheckEvidence['frames'][number] => {
  const { at, out, length, summary } = book.row(n)!
  const bytes = Buffer.from(book.bytesOf(n).subarray(0, mostOfFrame)).toString('base64')
  return { at: Math.round(at), out, length, bytes, summary: clean(summary, 400) }
}
